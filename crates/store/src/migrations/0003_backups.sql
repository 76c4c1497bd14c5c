-- How many nightly backups are kept; 0 makes none.
ALTER TABLE farm ADD COLUMN nightly_backups INTEGER NOT NULL DEFAULT 7 CHECK (nightly_backups BETWEEN 0 AND 400);
