"""When and where particles are born, and how they start."""
