-- +goose Up
-- People who can be added, locked and shown the door; links that let them in.
ALTER TABLE people
    ADD COLUMN locked boolean NOT NULL DEFAULT false,
    ADD COLUMN theme  text NOT NULL DEFAULT 'day' CHECK (theme IN ('day', 'bench')),
    ADD COLUMN units  text NOT NULL DEFAULT 'metric' CHECK (units IN ('metric', 'imperial'));
CREATE UNIQUE INDEX people_by_email ON people (lower(email));

-- A link is kept as its SHA-256 only; it works once, until it expires.
CREATE TABLE links (
    hash       text PRIMARY KEY,
    kind       text NOT NULL CHECK (kind IN ('setup', 'invite', 'reset')),
    person_id  bigint REFERENCES people (id),
    made_by    bigint NOT NULL,
    made_at    timestamptz NOT NULL,
    expires_at timestamptz NOT NULL,
    used_at    timestamptz
);

DROP TABLE sessions;
CREATE TABLE sessions (
    token     text PRIMARY KEY,
    person_id bigint NOT NULL REFERENCES people (id),
    data      bytea NOT NULL,
    expiry    timestamptz NOT NULL,
    made_at   timestamptz NOT NULL DEFAULT now(),
    seen_at   timestamptz NOT NULL DEFAULT now(),
    agent     text NOT NULL DEFAULT ''
);
CREATE INDEX sessions_expiry ON sessions (expiry);
CREATE INDEX sessions_by_person ON sessions (person_id);

-- What is said of a code stands in its sheets, in one place.
ALTER TABLE engines DROP COLUMN sheet, DROP COLUMN version;

DROP TRIGGER latched_kept ON revisions;
DROP FUNCTION keep_latched;
ALTER TABLE revisions
    DROP CONSTRAINT revisions_state_check,
    ADD CONSTRAINT revisions_state_check CHECK (state IN ('draft', 'on review', 'latched', 'superseded', 'deleted')),
    ADD COLUMN sheet_id bigint REFERENCES sheets (id),
    ADD COLUMN title text GENERATED ALWAYS AS (header::jsonb ->> 'title') STORED;
CREATE INDEX revisions_open ON revisions (procedure_id) WHERE state IN ('draft', 'on review');
CREATE INDEX revisions_latched ON revisions (procedure_id) WHERE state = 'latched';
CREATE INDEX procedures_by_engine ON procedures (engine);

ALTER TABLE batches DROP CONSTRAINT batches_batch_key, ADD COLUMN digest text NOT NULL DEFAULT '';
CREATE UNIQUE INDEX batch_names ON batches (revision_id, person_id, batch);
ALTER TABLE sheet_batches DROP CONSTRAINT sheet_batches_batch_key, ADD COLUMN digest text NOT NULL DEFAULT '';
CREATE UNIQUE INDEX sheet_batch_names ON sheet_batches (sheet_id, person_id, batch);

ALTER TABLE closings ADD COLUMN version bigint NOT NULL DEFAULT 0, ADD COLUMN sheet_id bigint;

-- form says how an entry's hash was made: 1 before sheets had a column, 2 since.
ALTER TABLE record ADD COLUMN sheet_id bigint NOT NULL DEFAULT 0, ADD COLUMN form int NOT NULL DEFAULT 1;
CREATE INDEX record_by_worker ON record (revision_id, person_id);
CREATE INDEX record_by_sheet ON record (sheet_id, person_id);

-- The head of the record, signed with a key that is kept outside the database.
CREATE TABLE anchors (
    seq       bigint PRIMARY KEY,
    hash      text NOT NULL,
    at        timestamptz NOT NULL,
    key       text NOT NULL,
    signature text NOT NULL
);

-- What a proof found, kept for lists: worked out again whenever it is missing.
CREATE TABLE standings (
    revision_id bigint PRIMARY KEY REFERENCES revisions (id),
    version     bigint NOT NULL,
    sheet_id    bigint NOT NULL,
    edition     text NOT NULL,
    steps       int NOT NULL,
    blocking    int NOT NULL,
    findings    int NOT NULL,
    requires    text NOT NULL
);
CREATE TABLE sheet_standings (
    sheet_id bigint PRIMARY KEY REFERENCES sheets (id),
    version  bigint NOT NULL,
    edition  text NOT NULL,
    card     text NOT NULL
);

ALTER TABLE reproofs ADD COLUMN lease_by text NOT NULL DEFAULT '', ADD COLUMN lease_until timestamptz;

-- Written to find out whether the database can be written to.
CREATE TABLE pulse (id int PRIMARY KEY, at timestamptz NOT NULL);
INSERT INTO pulse VALUES (1, now());

-- +goose StatementBegin
CREATE FUNCTION keep_latched() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'INSERT' THEN
        IF NEW.state <> 'draft' OR NEW.frozen <> '' OR NEW.sha256 <> '' OR NEW.latched_at IS NOT NULL THEN
            RAISE EXCEPTION 'a revision starts as a draft';
        END IF;
        RETURN NEW;
    END IF;
    IF OLD.state IN ('latched', 'superseded') THEN
        IF TG_OP = 'DELETE' OR NEW.state NOT IN ('latched', 'superseded') OR OLD.state = 'superseded' AND NEW.state <> 'superseded'
           OR (to_jsonb(NEW) - 'state' - 'title') <> (to_jsonb(OLD) - 'state' - 'title') THEN
            RAISE EXCEPTION 'revision % is latched and never changes', OLD.id;
        END IF;
        RETURN NEW;
    END IF;
    IF TG_OP = 'DELETE' THEN
        RAISE EXCEPTION 'revision % is kept; a draft is marked as deleted', OLD.id;
    END IF;
    IF NEW.id <> OLD.id OR NEW.procedure_id <> OLD.procedure_id OR NEW.number <> OLD.number OR NEW.created_by <> OLD.created_by THEN
        RAISE EXCEPTION 'revision % stays where it is', OLD.id;
    END IF;
    IF NEW.version < OLD.version THEN
        RAISE EXCEPTION 'revision % counts its versions upwards', OLD.id;
    END IF;
    IF OLD.state = 'deleted' AND NEW.state NOT IN ('deleted', 'draft') OR NEW.state = 'deleted' AND OLD.state NOT IN ('deleted', 'draft') THEN
        RAISE EXCEPTION 'only a draft is deleted, and comes back as one';
    END IF;
    IF NEW.state = 'superseded' THEN
        RAISE EXCEPTION 'revision % was never latched', OLD.id;
    END IF;
    IF NEW.state = 'latched' THEN
        IF NEW.frozen = '' OR NEW.sha256 <> encode(sha256(convert_to(NEW.frozen, 'UTF8')), 'hex') OR NEW.sheet_id IS NULL OR NEW.latched_at IS NULL THEN
            RAISE EXCEPTION 'revision % is latched with a file that is its own', OLD.id;
        END IF;
        IF (SELECT count(DISTINCT latch) FROM closings WHERE revision_id = OLD.id AND latch IN ('author', 'technical', 'editorial')) < 3 THEN
            RAISE EXCEPTION 'revision % has latches open', OLD.id;
        END IF;
    ELSIF NEW.frozen <> '' OR NEW.sha256 <> '' OR NEW.latched_at IS NOT NULL THEN
        RAISE EXCEPTION 'only a latched revision is frozen';
    END IF;
    RETURN NEW;
END $$;

CREATE OR REPLACE FUNCTION keep_latched_parts() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP <> 'INSERT' AND EXISTS (SELECT 1 FROM revisions WHERE id = OLD.revision_id AND state IN ('latched', 'superseded', 'deleted')) THEN
        RAISE EXCEPTION 'revision % is latched or deleted and never changes', OLD.revision_id;
    END IF;
    IF TG_OP <> 'DELETE' AND EXISTS (SELECT 1 FROM revisions WHERE id = NEW.revision_id AND state IN ('latched', 'superseded', 'deleted')) THEN
        RAISE EXCEPTION 'revision % is latched or deleted and never changes', NEW.revision_id;
    END IF;
    IF TG_OP = 'UPDATE' AND (TG_TABLE_NAME = 'closings' OR NEW.revision_id <> OLD.revision_id) THEN
        RAISE EXCEPTION 'a % of revision % never changes', TG_TABLE_NAME, OLD.revision_id;
    END IF;
    IF TG_OP = 'DELETE' THEN
        RETURN OLD;
    END IF;
    RETURN NEW;
END $$;

CREATE OR REPLACE FUNCTION keep_sheets() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'INSERT' THEN
        IF NEW.state <> 'draft' OR NEW.sha256 <> '' OR NEW.released_by IS NOT NULL OR NEW.created_by IS NULL THEN
            RAISE EXCEPTION 'a sheet starts as somebody''s draft';
        END IF;
        RETURN NEW;
    END IF;
    IF OLD.state <> 'draft' AND (TG_OP = 'DELETE' OR NEW.state = 'draft' OR OLD.state = 'superseded'
       OR (to_jsonb(NEW) - 'state') <> (to_jsonb(OLD) - 'state')) THEN
        RAISE EXCEPTION 'sheet % of % is in use or superseded and never changes', OLD.number, OLD.code;
    END IF;
    IF TG_OP = 'DELETE' THEN
        RAISE EXCEPTION 'sheet % of % is kept', OLD.number, OLD.code;
    END IF;
    IF NEW.id <> OLD.id OR NEW.code <> OLD.code OR NEW.number <> OLD.number OR NEW.created_by IS DISTINCT FROM OLD.created_by OR NEW.version < OLD.version THEN
        RAISE EXCEPTION 'sheet % of % stays where it is', OLD.number, OLD.code;
    END IF;
    IF OLD.state = 'draft' AND NEW.state <> 'draft' AND (NEW.state <> 'in use' OR NEW.released_by IS NULL OR NEW.released_by = NEW.created_by
       OR NEW.sha256 <> encode(sha256(convert_to(NEW.sheet, 'UTF8')), 'hex')) THEN
        RAISE EXCEPTION 'sheet % of % goes into use by another person, with its hash', OLD.number, OLD.code;
    END IF;
    RETURN NEW;
END $$;

CREATE FUNCTION keep_batches() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'DELETE' OR (to_jsonb(NEW) - 'undone') <> (to_jsonb(OLD) - 'undone') OR OLD.undone AND NOT NEW.undone THEN
        RAISE EXCEPTION 'a batch of edits never changes';
    END IF;
    RETURN NEW;
END $$;

CREATE FUNCTION keep_whole() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION '% is only ever added to', TG_TABLE_NAME;
END $$;

CREATE FUNCTION keep_people() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'DELETE' OR NEW.id <> OLD.id OR NEW.created_at <> OLD.created_at THEN
        RAISE EXCEPTION 'people are locked, never taken out';
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd

CREATE TRIGGER latched_kept BEFORE INSERT OR UPDATE OR DELETE ON revisions FOR EACH ROW EXECUTE FUNCTION keep_latched();
DROP TRIGGER sheets_kept ON sheets;
CREATE TRIGGER sheets_kept BEFORE INSERT OR UPDATE OR DELETE ON sheets FOR EACH ROW EXECUTE FUNCTION keep_sheets();
CREATE TRIGGER batches_kept BEFORE UPDATE OR DELETE ON batches FOR EACH ROW EXECUTE FUNCTION keep_batches();
CREATE TRIGGER sheet_batches_kept BEFORE UPDATE OR DELETE ON sheet_batches FOR EACH ROW EXECUTE FUNCTION keep_batches();
CREATE TRIGGER engines_kept BEFORE UPDATE OR DELETE ON engines FOR EACH ROW EXECUTE FUNCTION keep_whole();
CREATE TRIGGER procedures_kept BEFORE UPDATE OR DELETE ON procedures FOR EACH ROW EXECUTE FUNCTION keep_whole();
CREATE TRIGGER anchors_kept BEFORE UPDATE OR DELETE ON anchors FOR EACH ROW EXECUTE FUNCTION keep_whole();
CREATE TRIGGER people_kept BEFORE UPDATE OR DELETE ON people FOR EACH ROW EXECUTE FUNCTION keep_people();

-- +goose StatementBegin
DO $$
DECLARE
    t text;
    f text;
BEGIN
    FOREACH t IN ARRAY ARRAY['people', 'engines', 'procedures', 'revisions', 'steps', 'batches', 'closings', 'sheets', 'sheet_batches', 'anchors'] LOOP
        EXECUTE format('CREATE TRIGGER %I BEFORE TRUNCATE ON %I EXECUTE FUNCTION keep_whole()', t || '_kept_whole', t);
    END LOOP;
    -- A temporary table of the same name must not be looked at in place of ours.
    FOREACH f IN ARRAY ARRAY['keep_record', 'keep_latched', 'keep_latched_parts', 'keep_sheets', 'keep_batches', 'keep_whole', 'keep_people'] LOOP
        EXECUTE format('ALTER FUNCTION %I() SET search_path = %I, pg_temp', f, current_schema());
    END LOOP;
END $$;
-- +goose StatementEnd

-- +goose Down
SELECT 1 / 0 AS "there is no way back from here; restore a backup";
