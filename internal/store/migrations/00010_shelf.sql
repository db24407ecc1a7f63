-- +goose Up
-- Who entered the values that rest on a document: on their desk it stands when another has
-- replaced it.
ALTER TABLE sheet_sources ADD COLUMN owners text NOT NULL DEFAULT '';

-- What the house keeps of a tool or a document, whatever sheets name it: a picture or a file,
-- the newest row of a number holds, and one without a type is none any more.
CREATE TABLE shelf_files (
    id        bigserial PRIMARY KEY,
    kind      text NOT NULL CHECK (kind IN ('tool', 'source')),
    number    text NOT NULL CHECK (length(number) BETWEEN 1 AND 200),
    name      text NOT NULL CHECK (length(name) <= 200),
    type      text NOT NULL CHECK (type IN ('', 'image/jpeg', 'application/pdf')),
    body      bytea NOT NULL CHECK (length(body) <= 10485760),
    person_id bigint NOT NULL REFERENCES people (id),
    at        timestamptz NOT NULL
);
CREATE INDEX shelf_files_of ON shelf_files (kind, lower(number), id DESC);

-- When a tool was calibrated, and for how many months that holds; the newest row holds.
CREATE TABLE tool_checks (
    id        bigserial PRIMARY KEY,
    number    text NOT NULL CHECK (length(number) BETWEEN 1 AND 200),
    done      text NOT NULL,
    months    int NOT NULL CHECK (months BETWEEN 0 AND 600),
    person_id bigint NOT NULL REFERENCES people (id),
    at        timestamptz NOT NULL
);
CREATE INDEX tool_checks_of ON tool_checks (lower(number), id DESC);

CREATE TRIGGER shelf_files_kept BEFORE UPDATE OR DELETE ON shelf_files FOR EACH ROW EXECUTE FUNCTION keep_whole();
CREATE TRIGGER shelf_files_kept_whole BEFORE TRUNCATE ON shelf_files EXECUTE FUNCTION keep_whole();
CREATE TRIGGER tool_checks_kept BEFORE UPDATE OR DELETE ON tool_checks FOR EACH ROW EXECUTE FUNCTION keep_whole();
CREATE TRIGGER tool_checks_kept_whole BEFORE TRUNCATE ON tool_checks EXECUTE FUNCTION keep_whole();

-- +goose Down
SELECT 1 / 0 AS "there is no way back from here; restore a backup";
