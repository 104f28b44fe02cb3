"""The stock: the names that the base game defines, so that a map need not. Short lists are written by hand, as JSON;
long ones are made of the game's own files and asked without being loaded."""

from hookset.project.stocks.database import StockDatabase, write_database
from hookset.project.stocks.listed import StockFile, StockList, StockNames
from hookset.project.stocks.stock import Stock, StockRow, StockSource, read_stock

__all__ = [
    "Stock",
    "StockDatabase",
    "StockFile",
    "StockList",
    "StockNames",
    "StockRow",
    "StockSource",
    "read_stock",
    "write_database",
]
