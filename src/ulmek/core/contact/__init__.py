"""Search, overlap integration and pair laws."""
