"""The version, for what must not import the whole."""

VERSION = "0.23.0"
