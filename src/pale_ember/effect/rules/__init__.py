"""What the model is made of: fields with their rules, parts, reading, refusing, and edits by path."""
