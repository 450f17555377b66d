"""Hand checks: closed forms beside computed values, each with its source."""
