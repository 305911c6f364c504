"""The job's rules and arithmetic. Arrays and frozen dataclasses in and out; numpy and scipy only.

Parts of scipy are named in full: it loads each when it is first asked of, and some are slow to load.
"""
