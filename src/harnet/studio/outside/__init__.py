"""What Harnet asks of the outside world: interfaces that the stand-ins implement."""
