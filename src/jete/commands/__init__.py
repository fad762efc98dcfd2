"""What the commands of the command line do, one file a subject."""
