"""The report of a run: one document, typeset as PDF or as a page that stands alone."""
