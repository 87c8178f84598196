"""Recipes, which belong to no job. Stored as JSON; one that this version cannot read is listed as that."""

from collections.abc import Sequence
from dataclasses import dataclass
from datetime import datetime

from sqlalchemy import select

from wedge_turn.core.errors import BadRequestError, UnreadableError
from wedge_turn.core.worksheet import Recipe, recipe_of
from wedge_turn.store.database import Database
from wedge_turn.store.lookup import checked_name, get_row
from wedge_turn.store.rows import KeptRecipe


@dataclass(frozen=True)
class Listed:
    """A recipe in a list; `recipe` is None where it cannot be read."""

    id: str
    name: str
    created: datetime
    recipe: Recipe | None


class Recipes:
    def __init__(self, database: Database) -> None:
        self._database = database

    def all(self) -> Sequence[Listed]:
        """All recipes by name."""
        with self._database.reading() as session:
            rows = session.scalars(select(KeptRecipe)).all()
        return sorted((_listed(row) for row in rows), key=lambda one: (one.name.casefold(), one.created))

    def get(self, recipe_id: str) -> Recipe:
        """Raises NotFoundError, or UnreadableError for one that this version cannot read."""
        with self._database.reading() as session:
            row = get_row(session, KeptRecipe, recipe_id, "recipe")
        try:
            return recipe_of(row.recipe)
        except BadRequestError as error:
            raise UnreadableError(f"The recipe {row.name} can't be read") from error

    def add(self, recipe: Recipe) -> Listed:
        with self._database.changing() as session:
            row = KeptRecipe(name=checked_name(recipe.name), recipe=recipe.model_dump(mode="json"))
            session.add(row)
            session.flush()
            return _listed(row)

    def rename(self, recipe_id: str, name: str) -> Listed:
        clean = checked_name(name)
        with self._database.changing() as session:
            row = get_row(session, KeptRecipe, recipe_id, "recipe")
            row.name, row.recipe = clean, {**row.recipe, "name": clean}
            return _listed(row)

    def delete(self, recipe_id: str) -> None:
        with self._database.changing() as session:
            session.delete(get_row(session, KeptRecipe, recipe_id, "recipe"))


def _listed(row: KeptRecipe) -> Listed:
    try:
        recipe = recipe_of(row.recipe)
    except BadRequestError:
        recipe = None
    return Listed(row.id, row.name, row.created, recipe)
