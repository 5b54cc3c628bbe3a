"""The record kept from visits: odds, arrivals, forecasts, calendar."""
