"""What is made of documents in packages: files of their images, improved copies."""
