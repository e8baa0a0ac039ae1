"""The package that scripts on Linux boards import their pins from."""
