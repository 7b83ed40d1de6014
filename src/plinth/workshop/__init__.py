"""The kept file: one SQLite file with builds, readings, diary, shelf and bench."""
