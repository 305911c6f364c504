"""The arithmetic of the bench: trims, dividers, irons, temperatures."""
