"""Trays begun, worked through, and their mats."""
