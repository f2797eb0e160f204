"""Keys of a guide that may be written in a shorter way: a text for a table, one value for a list of them."""

from __future__ import annotations

from typing import Any

from pydantic import GetCoreSchemaHandler, GetJsonSchemaHandler
from pydantic_core import core_schema


class TextForTable:
    """In an `Annotated` table: a text represents the table whose ``key`` has that text."""

    def __init__(self, key: str) -> None:
        self._key = key

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> core_schema.CoreSchema:
        """What pydantic asks for to read a value."""
        return core_schema.no_info_before_validator_function(self._as_table, handler(source))

    def __get_pydantic_json_schema__(self, schema: core_schema.CoreSchema, handler: GetJsonSchemaHandler) -> Any:
        """What pydantic asks for to describe a value to editors."""
        return {"anyOf": [{"type": "string"}, handler(schema)]}

    def _as_table(self, value: object) -> object:
        return {self._key: value} if isinstance(value, str) else value


class OneForList:
    """In an `Annotated` tuple: one text or table represents a list with nothing else."""

    def __get_pydantic_core_schema__(self, source: Any, handler: GetCoreSchemaHandler) -> core_schema.CoreSchema:
        """What pydantic asks for to read a value."""
        return core_schema.no_info_before_validator_function(_as_list, handler(source))

    def __get_pydantic_json_schema__(self, schema: core_schema.CoreSchema, handler: GetJsonSchemaHandler) -> Any:
        """What pydantic asks for to describe a value to editors."""
        many = handler(schema)
        return {"anyOf": [many["items"], many]}


def _as_list(value: object) -> object:
    return (value,) if isinstance(value, str | dict) else value
