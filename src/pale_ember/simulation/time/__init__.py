"""Layers in time: steps, snapshots, events, and the life of one particle."""
