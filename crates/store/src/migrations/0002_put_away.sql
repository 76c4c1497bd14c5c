-- A trial put away stands in no list of work; nothing of it is lost, and it can be brought back.
ALTER TABLE trial ADD COLUMN put_away_at TEXT;
