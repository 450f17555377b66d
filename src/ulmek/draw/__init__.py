"""Pictures of runs drawn without a browser: stage, imprints, curves, animations."""
