"""What every use case needs: what must exist, settings, shared views, fingerprints."""
