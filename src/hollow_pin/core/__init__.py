"""The job's rules and arithmetic. Arrays and frozen dataclasses in and out; numpy and scipy only."""
