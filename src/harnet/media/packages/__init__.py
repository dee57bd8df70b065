"""Documents in packages: slide decks, text documents, spreadsheets and books."""
