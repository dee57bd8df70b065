"""The pixels of pictures: previews, print copies, colour, detail, differences."""
