"""Supports, loads and bolts."""
