"""The tray: a fixed-lens compact taken apart and put together again, every screw counted."""
