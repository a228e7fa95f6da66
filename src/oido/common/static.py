"""Static files with hashed names, ES module imports included."""

from whitenoise.storage import CompressedManifestStaticFilesStorage


class ModuleStorage(CompressedManifestStaticFilesStorage):  # type: ignore[misc]  # its package has no types
    support_js_module_import_aggregation = True
    manifest_strict = True
    max_post_process_passes = 20
    """A new hash travels up one import at each pass, so there must be more passes than modules lie above one another."""
