"""A running take: written down first, then followed, then shown. Owns no arithmetic."""
