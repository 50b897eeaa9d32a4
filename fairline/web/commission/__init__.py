"""Commission: its pages and what they post."""

from fairline.web.commission.routes import router as router
