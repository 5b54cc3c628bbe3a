"""The job itself: arrays and plain records in, records out. No files, database, web or clock."""
