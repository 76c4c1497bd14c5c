-- What is cut or picked of a unit before, or in the place of, one harvest at the end.
CREATE TABLE pick (
    no INTEGER PRIMARY KEY,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    unit_no INTEGER NOT NULL REFERENCES unit (no) ON DELETE CASCADE,
    crop INTEGER NOT NULL DEFAULT 0 CHECK (crop >= 0),
    sample INTEGER NOT NULL DEFAULT 0 CHECK (sample >= 0),
    gross_g REAL NOT NULL CHECK (gross_g >= 0),
    tare_g REAL NOT NULL CHECK (tare_g >= 0),
    net_g REAL NOT NULL CHECK (net_g >= 0),
    pieces INTEGER CHECK (pieces >= 0),
    grade TEXT NOT NULL DEFAULT '',
    aside INTEGER NOT NULL DEFAULT 0 CHECK (aside IN (0, 1)),
    day INTEGER NOT NULL CHECK (day >= 0),
    round INTEGER NOT NULL DEFAULT 1 CHECK (round > 0),
    at_us INTEGER NOT NULL,
    entered_at_us INTEGER NOT NULL,
    who TEXT NOT NULL,
    instrument TEXT,
    changed INTEGER NOT NULL
) STRICT;
CREATE INDEX pick_by_trial ON pick (trial_no, day);
CREATE INDEX pick_by_unit ON pick (unit_no, crop);
