"""The kit: what a step takes from it, and whether it is ready for the jobs booked."""
