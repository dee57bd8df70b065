"""The Tarnholm scenario: an invented lighthouse, its pictures and the jobs made of them."""
