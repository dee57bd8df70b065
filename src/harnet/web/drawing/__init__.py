"""What views draw as SVG, every figure ready: pages, marks, the ruler, reach, the loupe."""
