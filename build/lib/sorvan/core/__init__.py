"""Every rule and every number. Imports no web, no database and no file system."""
