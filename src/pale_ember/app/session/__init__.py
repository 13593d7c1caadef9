"""What the window works on, and what goes to disk and clipboard."""
