"""Changes on site, strikes, and the way out of what may not follow."""
