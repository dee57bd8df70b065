"""What the hand does to frames: moving, sizing, drawing them, and what they come to rest on."""
