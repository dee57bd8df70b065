"""Values, formulas and rules of the trade: standard library only, no input or output."""
