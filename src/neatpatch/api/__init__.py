"""HTTP: the application, its guard, its errors."""
