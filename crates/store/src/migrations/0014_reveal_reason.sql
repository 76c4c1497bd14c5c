-- Why a key was opened before the end; empty where it was not.
ALTER TABLE trial ADD COLUMN reveal_reason TEXT NOT NULL DEFAULT '';
