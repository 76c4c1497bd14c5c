-- Photos. The picture itself lies beside the data file, in a folder of its own, under the SHA-256 of what is kept of it.
CREATE TABLE photo (
    no INTEGER PRIMARY KEY,
    id TEXT NOT NULL UNIQUE,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    unit_no INTEGER NOT NULL REFERENCES unit (no) ON DELETE CASCADE,
    view TEXT NOT NULL CHECK (view IN ('top', 'side', 'root')),
    sha256 TEXT NOT NULL CHECK (length(sha256) = 64),
    media TEXT NOT NULL CHECK (media IN ('image/jpeg', 'image/png')),
    -- As it is to be seen, turned upright.
    width INTEGER NOT NULL CHECK (width > 0),
    height INTEGER NOT NULL CHECK (height > 0),
    -- As the camera wrote it, 1 to 8; 1 is upright.
    orientation INTEGER NOT NULL DEFAULT 1 CHECK (orientation BETWEEN 1 AND 8),
    -- What was marked in it, and what was measured, as JSON; NULL before.
    marked TEXT CHECK (json_valid(marked)),
    figures TEXT CHECK (json_valid(figures)),
    day INTEGER NOT NULL CHECK (day >= 0),
    round INTEGER NOT NULL DEFAULT 1 CHECK (round > 0),
    -- When it was taken, as far as camera or entry tell.
    at_us INTEGER NOT NULL,
    entered_at_us INTEGER NOT NULL,
    who TEXT NOT NULL,
    version INTEGER NOT NULL DEFAULT 1,
    changed INTEGER NOT NULL
) STRICT;
CREATE INDEX photo_by_trial ON photo (trial_no, day);
CREATE INDEX photo_by_content ON photo (sha256);
