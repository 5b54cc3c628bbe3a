"""Reading and writing frames: bytes in, linear luminance and metadata out."""
