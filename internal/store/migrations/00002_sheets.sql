-- +goose Up
-- Engine sheets are versioned as procedures are: one draft at most, one in use,
-- the others superseded. engines holds the one in use.
CREATE TABLE sheets (
    id          bigserial PRIMARY KEY,
    code        text NOT NULL,
    number      int NOT NULL,
    state       text NOT NULL CHECK (state IN ('draft', 'in use', 'superseded')),
    sheet       text NOT NULL,
    version     bigint NOT NULL DEFAULT 1,
    reason      text NOT NULL DEFAULT '',
    sha256      text NOT NULL DEFAULT '',
    created_by  bigint REFERENCES people (id),
    changed_by  bigint REFERENCES people (id),
    changed_at  timestamptz NOT NULL DEFAULT now(),
    released_by bigint REFERENCES people (id),
    released_at timestamptz,
    UNIQUE (code, number)
);
CREATE UNIQUE INDEX one_sheet_draft ON sheets (code) WHERE state = 'draft';
CREATE UNIQUE INDEX one_sheet_in_use ON sheets (code) WHERE state = 'in use';
INSERT INTO sheets (code, number, state, sheet, released_at) SELECT code, 1, 'in use', sheet, now() FROM engines;

CREATE TABLE sheet_batches (
    id        bigserial PRIMARY KEY,
    sheet_id  bigint NOT NULL REFERENCES sheets (id),
    batch     text NOT NULL UNIQUE,
    client    text NOT NULL,
    person_id bigint NOT NULL REFERENCES people (id),
    version   bigint NOT NULL,
    edits     text NOT NULL,
    inverse   text NOT NULL,
    kind      text NOT NULL CHECK (kind IN ('edit', 'undo', 'redo')),
    undone    boolean NOT NULL DEFAULT false,
    at        timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX sheet_batches_by_sheet ON sheet_batches (sheet_id, id);

-- A changed sheet proves the procedures of its code again, in the background.
CREATE TABLE reproofs (
    id          bigserial PRIMARY KEY,
    code        text NOT NULL,
    sheet_id    bigint NOT NULL REFERENCES sheets (id),
    state       text NOT NULL CHECK (state IN ('waiting', 'running', 'done', 'cancelled', 'failed')),
    total       int NOT NULL DEFAULT 0,
    done        int NOT NULL DEFAULT 0,
    started_by  bigint REFERENCES people (id),
    started_at  timestamptz NOT NULL DEFAULT now(),
    finished_at timestamptz
);
CREATE INDEX reproofs_by_code ON reproofs (code, id);

CREATE TABLE reproof_rows (
    reproof_id  bigint NOT NULL REFERENCES reproofs (id),
    revision_id bigint NOT NULL REFERENCES revisions (id),
    before      int NOT NULL,
    after       int NOT NULL,
    says        text NOT NULL,
    PRIMARY KEY (reproof_id, revision_id)
);

-- +goose StatementBegin
CREATE FUNCTION keep_sheets() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF OLD.state <> 'draft' AND (TG_OP = 'DELETE' OR NEW.state = 'draft' OR OLD.state = 'superseded'
       OR (to_jsonb(NEW) - 'state') <> (to_jsonb(OLD) - 'state')) THEN
        RAISE EXCEPTION 'sheet % of % is in use or superseded and never changes', OLD.number, OLD.code;
    END IF;
    IF TG_OP = 'DELETE' THEN
        RETURN OLD;
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd
CREATE TRIGGER sheets_kept BEFORE UPDATE OR DELETE ON sheets FOR EACH ROW EXECUTE FUNCTION keep_sheets();

-- +goose Down
DROP TABLE reproof_rows, reproofs, sheet_batches, sheets;
DROP FUNCTION keep_sheets;
