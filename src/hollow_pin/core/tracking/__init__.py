"""Which step of the routine each new sample belongs to, seen from the samples alone.

Incremental: every block costs its own length, whatever came before. A follower a step decides when
the step begins and ends; the readings are computed afterwards from the raw samples and owe it
nothing but the step names.
"""
