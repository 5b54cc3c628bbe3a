"""Letting devices in: codes, tokens, the certificate, links to reports."""
