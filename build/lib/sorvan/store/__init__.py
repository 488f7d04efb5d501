"""PostgreSQL holds all documents, the change log, art, and the list of renders."""
