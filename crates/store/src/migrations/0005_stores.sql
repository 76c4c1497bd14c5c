-- What stands on the grower's shelves. Which fields an entry has is the core's catalogue (one file a shelf), checked
-- there on every write; here they stand as one JSON object.
CREATE TABLE store_item (
    id TEXT PRIMARY KEY,
    shelf TEXT NOT NULL,
    name TEXT NOT NULL COLLATE NOCASE,
    source TEXT NOT NULL,
    held TEXT NOT NULL CHECK (json_valid(held)),
    at TEXT NOT NULL,
    version INTEGER NOT NULL DEFAULT 1,
    UNIQUE (shelf, name)
) STRICT;
-- On what terms treatments are compared, and cared for.
ALTER TABLE trial ADD COLUMN match_basis TEXT NOT NULL DEFAULT 'label_rate'
    CHECK (match_basis IN ('label_rate', 'equal_nitrogen', 'equal_ec', 'equal_cost'));
ALTER TABLE trial ADD COLUMN match_care TEXT NOT NULL DEFAULT 'identical' CHECK (match_care IN ('identical', 'as_needed'));
ALTER TABLE trial ADD COLUMN match_waiver TEXT NOT NULL DEFAULT '';
