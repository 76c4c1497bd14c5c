-- Several crops may share a unit: then a record is of one of them. 0 is the unit as a whole, 1 the first crop.
CREATE TABLE crop_inside (
    trial_id TEXT NOT NULL REFERENCES trial (id) ON DELETE CASCADE,
    position INTEGER NOT NULL CHECK (position > 0),
    name TEXT NOT NULL,
    PRIMARY KEY (trial_id, position)
) STRICT;
CREATE TABLE reading_new (
    id TEXT PRIMARY KEY NOT NULL,
    trial_id TEXT NOT NULL REFERENCES trial (id) ON DELETE CASCADE,
    unit_id TEXT NOT NULL REFERENCES unit (id) ON DELETE CASCADE,
    reading TEXT NOT NULL,
    part INTEGER NOT NULL DEFAULT 0 CHECK (part >= 0),
    day INTEGER NOT NULL,
    -- In the unit of the reading: pH, mS/cm at 25 C, mm. NULL: looked, and marked as missing.
    value REAL,
    at TEXT NOT NULL,
    version INTEGER NOT NULL DEFAULT 1,
    UNIQUE (unit_id, reading, part, day)
) STRICT;
INSERT INTO reading_new (id, trial_id, unit_id, reading, day, value, at, version)
    SELECT id, trial_id, unit_id, reading, day, value, at, version FROM reading;
DROP TABLE reading;
ALTER TABLE reading_new RENAME TO reading;
CREATE INDEX reading_by_trial ON reading (trial_id, day);
CREATE TABLE weighing_new (
    -- The unit's id; for a crop inside it followed by a slash and its number.
    id TEXT PRIMARY KEY NOT NULL,
    unit_id TEXT NOT NULL REFERENCES unit (id) ON DELETE CASCADE,
    part INTEGER NOT NULL DEFAULT 0 CHECK (part >= 0),
    trial_id TEXT NOT NULL REFERENCES trial (id) ON DELETE CASCADE,
    gross_g REAL NOT NULL CHECK (gross_g >= 0),
    tare_g REAL NOT NULL CHECK (tare_g >= 0),
    net_g REAL NOT NULL CHECK (net_g >= 0),
    day INTEGER NOT NULL,
    at TEXT NOT NULL,
    version INTEGER NOT NULL DEFAULT 1,
    UNIQUE (unit_id, part)
) STRICT;
INSERT INTO weighing_new (id, unit_id, trial_id, gross_g, tare_g, net_g, day, at, version)
    SELECT unit_id, unit_id, trial_id, gross_g, tare_g, net_g, day, at, version FROM weighing;
DROP TABLE weighing;
ALTER TABLE weighing_new RENAME TO weighing;
CREATE INDEX weighing_by_trial ON weighing (trial_id);
-- The margin in money: what the harvest brings, what a unit usually yields, and the margin as it was typed.
ALTER TABLE trial ADD COLUMN price_per_kg REAL CHECK (price_per_kg > 0);
ALTER TABLE trial ADD COLUMN usual_per_unit REAL CHECK (usual_per_unit > 0);
ALTER TABLE trial ADD COLUMN margin_money REAL CHECK (margin_money > 0);
-- A stage at which the trial ends; the last day is then when it is expected at the latest.
ALTER TABLE trial ADD COLUMN end_stage TEXT NOT NULL DEFAULT '';
-- Shares: out of how many a unit is usually counted.
ALTER TABLE trial ADD COLUMN usual_out_of REAL CHECK (usual_out_of >= 1);
-- What is looked for beside a verdict on each treatment: the dose that is enough, or what crossed factors do.
ALTER TABLE trial ADD COLUMN seeks TEXT NOT NULL DEFAULT 'verdicts' CHECK (seeks IN ('verdicts', 'dose', 'factors'));
