"""Pictures as values: facts, rights, sizes, print copies, detail."""
