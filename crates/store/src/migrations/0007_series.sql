-- Files of loggers, and what they hold: series of one quantity at one place, minute by minute. They are never rows of the
-- grid, and a file is taken back as a whole.
CREATE TABLE log_file (
    no INTEGER PRIMARY KEY,
    id TEXT NOT NULL UNIQUE,
    trial_no INTEGER NOT NULL REFERENCES trial (no) ON DELETE CASCADE,
    name TEXT NOT NULL,
    -- How it was read, as JSON.
    mapping TEXT NOT NULL CHECK (json_valid(mapping)),
    -- Rows that brought something new; that stood there already; with a value where another one stands; without a value; that
    -- cannot be read.
    taken INTEGER NOT NULL DEFAULT 0,
    doubled INTEGER NOT NULL DEFAULT 0,
    other INTEGER NOT NULL DEFAULT 0,
    empty INTEGER NOT NULL DEFAULT 0,
    bad INTEGER NOT NULL DEFAULT 0,
    -- The first of the others and of the bad ones, as JSON: line and why.
    bad_rows TEXT NOT NULL DEFAULT '[]' CHECK (json_valid(bad_rows)),
    -- Whether it was taken in to its end; what was not is swept away at the next start.
    whole INTEGER NOT NULL DEFAULT 0 CHECK (whole IN (0, 1)),
    at_us INTEGER NOT NULL,
    who TEXT NOT NULL,
    changed INTEGER NOT NULL
) STRICT;
CREATE INDEX log_file_by_trial ON log_file (trial_no);
CREATE TABLE series (
    no INTEGER PRIMARY KEY,
    log_no INTEGER NOT NULL REFERENCES log_file (no) ON DELETE CASCADE,
    quantity TEXT NOT NULL,
    -- On a shelf, in a unit, or in the room where both are NULL.
    level INTEGER CHECK (level > 0),
    unit_no INTEGER REFERENCES unit (no) ON DELETE CASCADE,
    from_ms INTEGER,
    until_ms INTEGER,
    CHECK (level IS NULL OR unit_no IS NULL)
) STRICT;
CREATE INDEX series_by_log ON series (log_no);
CREATE INDEX series_by_unit ON series (unit_no);
CREATE TABLE series_point (
    series_no INTEGER NOT NULL REFERENCES series (no) ON DELETE CASCADE,
    at_ms INTEGER NOT NULL,
    value REAL NOT NULL,
    PRIMARY KEY (series_no, at_ms)
) STRICT, WITHOUT ROWID;
-- What is drawn: by the hour since 1970.
CREATE TABLE series_hour (
    series_no INTEGER NOT NULL REFERENCES series (no) ON DELETE CASCADE,
    hour INTEGER NOT NULL,
    count INTEGER NOT NULL CHECK (count > 0),
    least REAL NOT NULL,
    most REAL NOT NULL,
    mean REAL NOT NULL,
    PRIMARY KEY (series_no, hour)
) STRICT, WITHOUT ROWID;
-- How a file with this head was read the last time.
CREATE TABLE log_mapping (
    head TEXT PRIMARY KEY,
    mapping TEXT NOT NULL CHECK (json_valid(mapping))
) STRICT;
