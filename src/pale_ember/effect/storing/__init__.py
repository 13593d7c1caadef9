"""An effect as a file: reading, writing, older versions, schema and reference."""
