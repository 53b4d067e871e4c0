"""What somebody looks at besides the picture: values, scopes, differences, a pixel's way."""
