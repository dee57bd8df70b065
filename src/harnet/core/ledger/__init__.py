"""Every placement of a job in short, and the scale of the density ruler."""
