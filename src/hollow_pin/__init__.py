"""Hollow Pin: the controller repair bench, measured."""

__version__ = "0.1.0"
