"""What moves particles: forces, eddies, orbit, limits of speed; and the paths of layers, props and bows."""
