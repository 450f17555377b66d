"""Ulmek: what a bolted, pinned, pressed or geared joint does under load."""

__version__ = "0.14.0"
