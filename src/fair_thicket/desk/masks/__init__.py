"""The station of masks: the timetable, pins, prices."""
