"""What is owned and used up: stock, costs, supplies, readiness."""
