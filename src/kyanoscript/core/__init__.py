import os

# Scripts are read the same whatever else is installed; looking for plugins would also cost a tenth of the start.
os.environ.setdefault("PYDANTIC_DISABLE_PLUGINS", "__all__")
