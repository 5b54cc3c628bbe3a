"""Use cases over folders of ordinary pictures."""
