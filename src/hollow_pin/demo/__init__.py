"""The Gannet Sound Sea Centre's bench, built by running stand-ins through the real capture."""
