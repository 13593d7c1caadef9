"""What a field may hold: numbers, colours, curves, and one form made of another."""
