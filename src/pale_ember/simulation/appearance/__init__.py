"""How particles look at a moment: the columns of instances that the GPU takes."""
