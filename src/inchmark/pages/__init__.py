"""What every page is made of: base template, fields, parts, figures in words."""
