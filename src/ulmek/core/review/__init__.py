"""Numbers that answer the analyst's questions."""
