"""Static files with hashed names, ES module imports included."""

from whitenoise.storage import CompressedManifestStaticFilesStorage


class ModuleStorage(CompressedManifestStaticFilesStorage):  # type: ignore[misc]  # its package has no types
    support_js_module_import_aggregation = True
    manifest_strict = True
