"""The application over HTTP: routers and schemas that translate, never compute."""
