"""What a capture can be of; each kind is a module that draws its figures."""
