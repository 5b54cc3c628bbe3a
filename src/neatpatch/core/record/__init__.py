"""The record: what was done and what it did, for paper and for the owner's own evidence."""
