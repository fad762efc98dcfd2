"""What prints: pages drawn with Qt, for the window and the command line alike."""
