"""Paper, ink and wax: colours, font, style sheet, icons, and small drawn things."""
