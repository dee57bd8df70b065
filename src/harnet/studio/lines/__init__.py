"""Lines of pictures, of jobs and of documents, as the database judges and orders them."""
