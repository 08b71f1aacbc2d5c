"""Samples judged, and held against what was recorded before."""
