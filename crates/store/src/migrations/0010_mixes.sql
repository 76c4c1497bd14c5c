-- A mix as it was made: batch, temperature, what was computed, and why meter and computation parted where they did.
ALTER TABLE mix ADD COLUMN batch TEXT NOT NULL DEFAULT '';
ALTER TABLE mix ADD COLUMN temperature_c REAL CHECK (temperature_c BETWEEN 0 AND 50);
ALTER TABLE mix ADD COLUMN computed_ec_ms_per_cm REAL CHECK (computed_ec_ms_per_cm >= 0);
ALTER TABLE mix ADD COLUMN gap_why TEXT NOT NULL DEFAULT '' CHECK (gap_why IN ('', 'scale', 'water', 'probe', 'label', 'unknown'));
-- What was weighed or poured, ingredient by ingredient, from which lot.
CREATE TABLE mix_portion (
    mix_id TEXT NOT NULL REFERENCES mix (id) ON DELETE CASCADE,
    position INTEGER NOT NULL CHECK (position >= 0),
    name TEXT NOT NULL,
    unit TEXT NOT NULL CHECK (unit IN ('g', 'mL')),
    planned REAL NOT NULL CHECK (planned >= 0),
    measured REAL NOT NULL CHECK (measured >= 0),
    lot TEXT NOT NULL DEFAULT '',
    PRIMARY KEY (mix_id, position)
) STRICT;
