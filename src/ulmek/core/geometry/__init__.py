"""Outlines, layered solids and recipes."""
