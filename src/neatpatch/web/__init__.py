"""The web API and the page: routers as thin as paper."""
