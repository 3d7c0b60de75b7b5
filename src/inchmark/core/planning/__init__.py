"""The plan of a field day: its design, its power, its timetable."""
