"""Trials on open data that thresholds come from; run by hand, their results stand in docs."""
