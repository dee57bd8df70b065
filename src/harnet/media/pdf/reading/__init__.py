"""Reading PDFs made elsewhere, and notes on copies of them."""
