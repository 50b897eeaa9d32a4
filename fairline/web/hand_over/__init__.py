"""Hand over: its page, the record, sign-off and what comes after it, labels, the owner's page."""

from fairline.web.hand_over import labels, owner, sealed, sign_off
from fairline.web.hand_over.routes import router as router

for one in (sign_off, sealed, owner, labels):
    router.include_router(one.router)
