"""One body and one cleaning: records, trail, outcomes."""
