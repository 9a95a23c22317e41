"""Studies in files: documents with their whole history in an SQLite database, written act by act."""
