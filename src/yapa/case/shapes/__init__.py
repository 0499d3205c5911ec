"""What bodies are made of: a module a kind of shape, listed in ``registry``."""
