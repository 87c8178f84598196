"""Recipes: lines of a worksheet kept without their files, and applied to others."""

from datetime import datetime
from itertools import repeat
from typing import Annotated, Any

from fastapi import APIRouter, Body, Path, Response
from fastapi.responses import JSONResponse
from pydantic import BaseModel, Field

from wedge_turn.api.answers import respond_to_change
from wedge_turn.api.context import Context, Ctx
from wedge_turn.api.headers import as_file
from wedge_turn.api.jobs import JobId
from wedge_turn.api.models import JobView, NewName
from wedge_turn.core.errors import BadRequestError
from wedge_turn.core.worksheet import (
    MAX_LINES,
    Candidate,
    Identity,
    Match,
    Matching,
    Plan,
    Recipe,
    Ref,
    Sheet,
    make_recipe,
    match_files,
    parse_recipe,
    parse_ref,
)
from wedge_turn.store.recipes import RecipeEntry
from wedge_turn.store.rows import new_id
from wedge_turn.tasks import Event

router = APIRouter(prefix="/api", tags=["recipes"])
RecipeId = Annotated[str, Path(max_length=64)]


class RecipeView(BaseModel):
    """A recipe in a list: what its roles are called, and the verb of each of its lines. `problem` says why it can't be
    read.
    """

    id: str
    name: str
    created: datetime
    roles: list[str]
    lines: list[str]
    problem: str | None


class NewRecipe(BaseModel):
    """Lines of a job's worksheet to keep as a recipe."""

    job: str
    revision: str
    steps: tuple[Identity, ...] = Field(min_length=1, max_length=MAX_LINES)
    name: str = Field(min_length=1, max_length=200)


class RecipeMatching(BaseModel):
    """A recipe and the clips of a worksheet to apply it to; `by` says which takes which role."""

    base: str
    recipe: str
    refs: tuple[Ref, ...] = Field(min_length=1, max_length=10_000)
    by: Matching = "role"


class RecipeTimes(BaseModel):
    """The clips for a recipe's roles, in the order of its roles, for each time that it is applied; and those that have
    no role.
    """

    times: list[list[Ref]]
    left_over: list[Ref]


@router.get("/recipes", operation_id="listRecipes")
def list_recipes(ctx: Ctx) -> list[RecipeView]:
    """All recipes by name."""
    return [_view(listed) for listed in ctx.store.recipes.all()]


@router.post("/recipes", operation_id="saveRecipe", status_code=201)
def save_recipe(ctx: Ctx, new: NewRecipe) -> RecipeView:
    """Keep lines of a worksheet as a recipe. Their files become roles."""
    sheet = ctx.clips.sheet(new.job, new.revision)
    return _added(ctx, make_recipe(sheet, new.steps, new.name))


@router.post("/recipes/import", operation_id="importRecipe", status_code=201)
def import_recipe(ctx: Ctx, recipe: Annotated[dict[str, Any], Body()]) -> RecipeView:
    """Keep a recipe that was exported."""
    return _added(ctx, parse_recipe(recipe))


@router.get("/recipes/{recipe_id}", operation_id="exportRecipe", response_model=Recipe)
def export_recipe(ctx: Ctx, recipe_id: RecipeId) -> Response:
    """A recipe as a file."""
    recipe = ctx.store.recipes.get(recipe_id)
    return JSONResponse(recipe.model_dump(mode="json"), headers=as_file(f"{recipe.name}.json"))


@router.patch("/recipes/{recipe_id}", operation_id="renameRecipe")
def rename_recipe(ctx: Ctx, recipe_id: RecipeId, new: NewName) -> RecipeView:
    """Give a recipe another name."""
    listed = ctx.store.recipes.rename(recipe_id, new.name or "")
    ctx.events.publish(Event("recipes-changed", ""))
    return _view(listed)


@router.delete("/recipes/{recipe_id}", operation_id="deleteRecipe", status_code=204)
def delete_recipe(ctx: Ctx, recipe_id: RecipeId) -> None:
    """Delete a recipe. Lines that it added stay."""
    ctx.store.recipes.delete(recipe_id)
    ctx.events.publish(Event("recipes-changed", ""))


@router.post("/jobs/{job_id}/recipes/match", operation_id="matchRecipe")
def match_recipe(ctx: Ctx, job_id: JobId, matching: RecipeMatching) -> RecipeTimes:
    """Which clips would take which role of a recipe."""
    recipe = ctx.store.recipes.get(matching.recipe)
    match = _matched(ctx, job_id, ctx.clips.sheet(job_id, matching.base), recipe, matching)
    return RecipeTimes(
        times=[[files[role.id].ref for role in recipe.roles] for files in match.times],
        left_over=[source.ref for source in match.left_over],
    )


@router.post("/jobs/{job_id}/recipes", operation_id="applyRecipe", status_code=201, response_model=JobView)
def apply_recipe(ctx: Ctx, job_id: JobId, matching: RecipeMatching) -> Response:
    """Add a recipe's lines to a worksheet, as often as the clips have its roles, as one revision."""
    recipe = ctx.store.recipes.get(matching.recipe)

    def change(sheet: Sheet) -> tuple[Plan, str]:
        match = _matched(ctx, job_id, sheet, recipe, matching)
        steps = match.steps(recipe, (new_id()[:12] for _ in repeat(None)))
        times = len(match.times)
        return sheet.plan.with_step(*steps), f"Applied {recipe.name}{f' {times} times' if times > 1 else ''}"

    ctx.clips.change(job_id, matching.base, change)
    return respond_to_change(ctx, job_id, 201)


def _matched(ctx: Context, job_id: str, sheet: Sheet, recipe: Recipe, matching: RecipeMatching) -> Match:
    folders = {source.id: source.folder for source in ctx.store.sources.for_job(job_id)}
    candidates = []
    for ref in dict.fromkeys(matching.refs):
        kind, key, _ = parse_ref(ref)
        if kind == "lost":
            raise BadRequestError("A recipe is applied to files and results that are there")
        info = sheet.info(ref)
        candidates.append(Candidate(ref, info.name, info.form.channels, folders.get(key, "")))
    return match_files(recipe, candidates, matching.by)


def _added(ctx: Context, recipe: Recipe) -> RecipeView:
    listed = ctx.store.recipes.add(recipe)
    ctx.events.publish(Event("recipes-changed", ""))
    return _view(listed)


def _view(listed: RecipeEntry) -> RecipeView:
    recipe = listed.recipe
    return RecipeView(
        id=listed.id,
        name=listed.name,
        created=listed.created,
        roles=[role.label for role in recipe.roles] if recipe else [],
        lines=[line.turn.words for line in recipe.lines] if recipe else [],
        problem=None if recipe else "This version can't read it",
    )
