"""The tray over HTTP."""
