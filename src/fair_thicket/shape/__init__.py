"""Ground-floor geometry: outlines, overlap, stretches along an outline, rasters. Millimetres; angles in degrees."""
