"""Outlines and rectangles laid out on sheets: nested, cut by guillotine, passed through a machine."""
