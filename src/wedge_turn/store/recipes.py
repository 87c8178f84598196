"""Recipes, which belong to no job. Stored as JSON; one that this version cannot read is listed as that."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select

from wedge_turn.core.errors import BadRequestError, UnreadableError
from wedge_turn.core.worksheet import Recipe, parse_recipe
from wedge_turn.store.database import Database
from wedge_turn.store.lookup import check_name, get_row
from wedge_turn.store.rows import SavedRecipe


@dataclass(frozen=True)
class RecipeEntry:
    """A recipe in a list; `recipe` is None where it cannot be read."""

    id: str
    name: str
    created: datetime
    recipe: Recipe | None


class Recipes:
    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> Sequence[RecipeEntry]:
        """All recipes by name."""
        with self._database.reading() as session:
            rows = session.scalars(select(SavedRecipe)).all()
        return sorted((_listed(row) for row in rows), key=lambda one: (one.name.casefold(), one.created))

    def get(self, recipe_id: str) -> Recipe:
        """Raises NotFoundError, or UnreadableError for one that this version cannot read."""
        with self._database.reading() as session:
            row = get_row(session, SavedRecipe, recipe_id, "recipe")
        try:
            return parse_recipe(row.recipe)
        except BadRequestError as error:
            raise UnreadableError(f"The recipe {row.name} can't be read") from error

    def add(self, recipe: Recipe) -> RecipeEntry:
        with self._database.changing() as session:
            row = SavedRecipe(name=check_name(recipe.name), recipe=recipe.model_dump(mode="json"))
            session.add(row)
            session.flush()
            return _listed(row)

    def rename(self, recipe_id: str, name: str) -> RecipeEntry:
        clean = check_name(name)
        with self._database.changing() as session:
            row = get_row(session, SavedRecipe, recipe_id, "recipe")
            row.name, row.recipe = clean, {**row.recipe, "name": clean}
            return _listed(row)

    def delete(self, recipe_id: str) -> None:
        with self._database.changing() as session:
            session.delete(get_row(session, SavedRecipe, recipe_id, "recipe"))


def _listed(row: SavedRecipe) -> RecipeEntry:
    try:
        recipe = parse_recipe(row.recipe)
    except BadRequestError:
        recipe = None
    return RecipeEntry(row.id, row.name, row.created, recipe)
