"""Use cases: what a designer asks of Harnet, one module a subject."""
