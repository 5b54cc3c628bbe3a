"""Nothing lost: the portable archive, and the check of a data folder."""
