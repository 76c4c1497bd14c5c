-- Instruments by address. Their registers are null where they are the usual ones.
CREATE TABLE device (
    no INTEGER PRIMARY KEY,
    kind TEXT NOT NULL CHECK (kind IN ('scale', 'probe', 'light', 'switch')),
    name TEXT NOT NULL,
    address TEXT NOT NULL,
    registers TEXT,
    version INTEGER NOT NULL DEFAULT 1
) STRICT;

-- In which order the units came when it was weighed; null where nobody said.
ALTER TABLE weighing ADD COLUMN turn TEXT CHECK (turn IN ('shuffled', 'walking', 'chosen'));
