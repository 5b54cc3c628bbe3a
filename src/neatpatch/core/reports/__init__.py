"""What reports and the calendar say, block by block."""
