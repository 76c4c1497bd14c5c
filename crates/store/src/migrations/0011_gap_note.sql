-- What was found where meter and computation parted, in the grower's own words.
ALTER TABLE mix ADD COLUMN gap_note TEXT NOT NULL DEFAULT '';
