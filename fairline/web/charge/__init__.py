"""Charge: its pages and what they post."""

from fairline.web.charge.routes import router as router
