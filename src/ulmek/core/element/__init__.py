"""Finite elements."""
