-- Who may do what. A recorder or viewer sees no key before it is opened.
CREATE TABLE person (
    id TEXT PRIMARY KEY,
    name TEXT NOT NULL UNIQUE COLLATE NOCASE,
    role TEXT NOT NULL CHECK (role IN ('owner', 'recorder', 'viewer')),
    -- Argon2id, in the PHC string format.
    passphrase_hash TEXT NOT NULL,
    at TEXT NOT NULL
) STRICT;
-- Signed-in browsers. The id is kept as its SHA-256 only: who reads the file cannot take over a session.
CREATE TABLE session (
    id_sha256 TEXT PRIMARY KEY,
    person_id TEXT REFERENCES person (id) ON DELETE CASCADE,
    record TEXT NOT NULL,
    expires_at INTEGER NOT NULL
) STRICT;
-- Whether this computer too asks who it is, for a shelf computer that several people use.
ALTER TABLE farm ADD COLUMN ask_here INTEGER NOT NULL DEFAULT 0 CHECK (ask_here IN (0, 1));
