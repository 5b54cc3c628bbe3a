"""Statistics of visits: odds of steps, rates of arrival, where dust settles, spots over time."""
