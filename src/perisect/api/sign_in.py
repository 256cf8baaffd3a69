"""Sign in and out, where the shop is open beyond this machine."""

import asyncio
from typing import Annotated

from fastapi import APIRouter, Cookie, Request, Response
from fastapi.concurrency import run_in_threadpool
from pydantic import BaseModel, Field

from perisect.api.problems import Problem
from perisect.api.security import COOKIE
from perisect.services import sign_in
from perisect.store.settings import settings
from perisect.store.sign_ins import LASTS

router = APIRouter(prefix="/api/sign-in", tags=["sign-in"])


class Passphrase(BaseModel):
    """The shop's passphrase."""

    passphrase: Annotated[str, Field(min_length=1, max_length=400)]


class SignInView(BaseModel):
    """Whether this shop asks for a passphrase, and whether you have given it."""

    needed: bool
    signed_in: bool


@router.get("")
def get_sign_in(perisect: Annotated[str, Cookie()] = "") -> SignInView:
    """How it stands with this browser."""
    if settings().is_local:
        return SignInView(needed=False, signed_in=True)
    return SignInView(needed=True, signed_in=bool(perisect) and sign_in.is_signed_in(perisect))


@router.post("")
async def post_sign_in(given: Passphrase, request: Request, response: Response) -> SignInView:
    """Sign in. After eight wrong passphrases an address waits, longer and longer; one that has signed in never does."""
    address = request.client.host if request.client else ""
    # Waited for here, where it takes no thread.
    await asyncio.sleep(await run_in_threadpool(sign_in.announce, address))
    token = await run_in_threadpool(sign_in.sign_in, given.passphrase, address)
    if token is None:
        raise Problem(401, "This is not the shop's passphrase.", "Ask whoever set it up.")
    response.set_cookie(
        COOKIE,
        token,
        max_age=int(LASTS.total_seconds()),
        httponly=True,
        samesite="strict",
        secure=request.url.scheme == "https",
    )
    return SignInView(needed=True, signed_in=True)


@router.delete("")
def delete_sign_in(response: Response, perisect: Annotated[str, Cookie()] = "") -> SignInView:
    """Sign out."""
    if perisect:
        sign_in.sign_out(perisect)
    response.delete_cookie(COOKIE)
    return SignInView(needed=not settings().is_local, signed_in=settings().is_local)
