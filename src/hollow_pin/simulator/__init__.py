"""Stand-in controllers: the physics of a worn stick and of the hands that move it."""
