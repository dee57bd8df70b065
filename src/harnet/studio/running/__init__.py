"""Running Harnet: how a studio is doing."""
