"""Material laws."""
