"""What all rooms of the job speak in: records, facts, decisions, errors, optics."""
