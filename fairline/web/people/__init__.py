"""People: signing in and out, invitations, tokens, shared links."""
