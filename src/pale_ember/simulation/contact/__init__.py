"""What particles meet on their way: the floor, props and meshes; and what a hit does to them."""
