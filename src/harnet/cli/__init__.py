"""The command `harnet`."""
