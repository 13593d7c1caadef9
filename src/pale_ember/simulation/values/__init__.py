"""Values as the kernels read them: baked tables, their sampling, and the dice that each draw comes from."""
