"""Statistics kept from visits: odds, arrivals, forecasts, calendar."""
