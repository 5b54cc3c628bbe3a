"""Operations of the practice room."""
