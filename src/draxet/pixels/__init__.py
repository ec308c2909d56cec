"""What several stages do with pixels."""
