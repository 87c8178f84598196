"""The rules of the job and all its computation: no web, no database, no interface."""
