"""The road as the reference drove it: curvature by positions and sensors, its corners, its ends."""
