"""Wire: its pages and what they post."""

from fairline.web.wire.routes import router as router
