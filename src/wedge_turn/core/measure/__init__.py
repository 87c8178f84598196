"""What is measured about a clip."""
