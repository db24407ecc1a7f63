-- +goose Up
CREATE TABLE people (
    id            bigserial PRIMARY KEY,
    email         text NOT NULL UNIQUE,
    name          text NOT NULL,
    password_hash text NOT NULL,
    roles         text NOT NULL,
    created_at    timestamptz NOT NULL DEFAULT now()
);

CREATE TABLE engines (
    code    text PRIMARY KEY,
    sheet   text NOT NULL,
    version bigint NOT NULL DEFAULT 1
);

CREATE TABLE procedures (
    id         bigserial PRIMARY KEY,
    engine     text NOT NULL REFERENCES engines (code),
    created_at timestamptz NOT NULL DEFAULT now()
);

-- A revision's steps live in their own table while it can be edited; once it is
-- latched, frozen holds the canonical file and nothing changes any more.
CREATE TABLE revisions (
    id           bigserial PRIMARY KEY,
    procedure_id bigint NOT NULL REFERENCES procedures (id),
    number       int NOT NULL,
    state        text NOT NULL CHECK (state IN ('draft', 'on review', 'latched', 'superseded')),
    reason       text NOT NULL DEFAULT '',
    header       text NOT NULL,
    header_by    text NOT NULL DEFAULT '',
    header_at    bigint NOT NULL DEFAULT 0,
    version      bigint NOT NULL DEFAULT 1,
    frozen       text NOT NULL DEFAULT '',
    sha256       text NOT NULL DEFAULT '',
    created_by   bigint NOT NULL REFERENCES people (id),
    changed_by   bigint NOT NULL REFERENCES people (id),
    changed_at   timestamptz NOT NULL DEFAULT now(),
    latched_at   timestamptz,
    UNIQUE (procedure_id, number)
);
CREATE UNIQUE INDEX one_open_revision ON revisions (procedure_id) WHERE state IN ('draft', 'on review');

CREATE TABLE steps (
    revision_id bigint NOT NULL REFERENCES revisions (id),
    step_id     text NOT NULL,
    pos         double precision NOT NULL,
    body        text NOT NULL,
    version     bigint NOT NULL,
    client      text NOT NULL,
    changed_by  bigint NOT NULL REFERENCES people (id),
    gone        boolean NOT NULL DEFAULT false,
    PRIMARY KEY (revision_id, step_id)
);

-- One row for each saved batch of edits, with the edits that lead back.
CREATE TABLE batches (
    id          bigserial PRIMARY KEY,
    revision_id bigint NOT NULL REFERENCES revisions (id),
    batch       text NOT NULL UNIQUE,
    person_id   bigint NOT NULL REFERENCES people (id),
    version     bigint NOT NULL,
    edits       text NOT NULL,
    inverse     text NOT NULL,
    kind        text NOT NULL CHECK (kind IN ('edit', 'undo', 'redo')),
    undone      boolean NOT NULL DEFAULT false,
    at          timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX batches_by_person ON batches (revision_id, person_id, id);

CREATE TABLE closings (
    revision_id bigint NOT NULL REFERENCES revisions (id),
    latch       text NOT NULL,
    person_id   bigint NOT NULL REFERENCES people (id),
    at          timestamptz NOT NULL DEFAULT now(),
    PRIMARY KEY (revision_id, latch)
);

-- The record: appended to, never changed. Each hash covers the one before.
CREATE TABLE record (
    seq         bigint PRIMARY KEY,
    at          timestamptz NOT NULL,
    person_id   bigint NOT NULL,
    what        text NOT NULL,
    revision_id bigint NOT NULL,
    payload     text NOT NULL,
    prev        text NOT NULL,
    hash        text NOT NULL
);
CREATE INDEX record_by_revision ON record (revision_id, seq);

CREATE TABLE sessions (
    token  text PRIMARY KEY,
    data   bytea NOT NULL,
    expiry timestamptz NOT NULL
);
CREATE INDEX sessions_expiry ON sessions (expiry);

-- +goose StatementBegin
CREATE FUNCTION keep_record() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    RAISE EXCEPTION 'the record is only ever added to';
END $$;
-- +goose StatementEnd
CREATE TRIGGER record_kept BEFORE UPDATE OR DELETE ON record FOR EACH ROW EXECUTE FUNCTION keep_record();
CREATE TRIGGER record_kept_whole BEFORE TRUNCATE ON record EXECUTE FUNCTION keep_record();

-- +goose StatementBegin
CREATE FUNCTION keep_latched() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF OLD.state IN ('latched', 'superseded') THEN
        IF TG_OP = 'DELETE' THEN
            RAISE EXCEPTION 'revision % is latched and never changes', OLD.id;
        END IF;
        IF NEW.state NOT IN ('latched', 'superseded') OR OLD.state = 'superseded' AND NEW.state <> 'superseded'
           OR (to_jsonb(NEW) - 'state') <> (to_jsonb(OLD) - 'state') THEN
            RAISE EXCEPTION 'revision % is latched and never changes', OLD.id;
        END IF;
    END IF;
    IF TG_OP = 'DELETE' THEN
        RETURN OLD;
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd
CREATE TRIGGER latched_kept BEFORE UPDATE OR DELETE ON revisions FOR EACH ROW EXECUTE FUNCTION keep_latched();

-- +goose StatementBegin
CREATE FUNCTION keep_latched_parts() RETURNS trigger LANGUAGE plpgsql AS $$
DECLARE
    r bigint;
BEGIN
    r := CASE WHEN TG_OP = 'INSERT' THEN NEW.revision_id ELSE OLD.revision_id END;
    IF EXISTS (SELECT 1 FROM revisions WHERE id = r AND state IN ('latched', 'superseded')) THEN
        RAISE EXCEPTION 'revision % is latched and never changes', r;
    END IF;
    IF TG_OP = 'DELETE' THEN
        RETURN OLD;
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd
CREATE TRIGGER latched_steps_kept BEFORE INSERT OR UPDATE OR DELETE ON steps FOR EACH ROW EXECUTE FUNCTION keep_latched_parts();
CREATE TRIGGER latched_closings_kept BEFORE INSERT OR UPDATE OR DELETE ON closings FOR EACH ROW EXECUTE FUNCTION keep_latched_parts();

-- +goose Down
DROP TABLE sessions, record, closings, batches, steps, revisions, procedures, engines, people;
DROP FUNCTION keep_record, keep_latched, keep_latched_parts;
