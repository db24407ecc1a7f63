-- +goose Up
-- What each person has read of a procedure, and exactly what each latch was closed
-- over. An older latch has no content: nobody kept it then.
CREATE TABLE readings (
    procedure_id bigint NOT NULL REFERENCES procedures (id),
    person_id    bigint NOT NULL REFERENCES people (id),
    page         text NOT NULL,
    at           timestamptz NOT NULL,
    PRIMARY KEY (procedure_id, person_id)
);
ALTER TABLE closings ADD COLUMN content text NOT NULL DEFAULT '';

-- What people say of a revision while it is written and reviewed. A remark stays on
-- its step, by the step's id, and keeps what the step said then.
CREATE TABLE remarks (
    id          bigserial PRIMARY KEY,
    revision_id bigint NOT NULL REFERENCES revisions (id),
    kind        text NOT NULL CHECK (kind IN ('question', 'remark', 'must-change', 'suggestion')),
    place       text NOT NULL CHECK (place IN ('page', 'phase', 'step', 'words', 'drawing')),
    step_id     text NOT NULL DEFAULT '',
    part        text NOT NULL DEFAULT '',
    said        text NOT NULL DEFAULT '',
    body        text NOT NULL DEFAULT '',
    line        text NOT NULL DEFAULT '',
    edits       text NOT NULL DEFAULT '',
    effect      text NOT NULL DEFAULT '',
    state       text NOT NULL DEFAULT 'open' CHECK (state IN ('open', 'settled', 'taken', 'declined')),
    version     bigint NOT NULL,
    person_id   bigint NOT NULL REFERENCES people (id),
    at          timestamptz NOT NULL
);
CREATE INDEX remarks_by_revision ON remarks (revision_id, id);
CREATE INDEX remarks_open ON remarks (revision_id) WHERE state = 'open';

CREATE TABLE replies (
    id        bigserial PRIMARY KEY,
    remark_id bigint NOT NULL REFERENCES remarks (id),
    act       text NOT NULL CHECK (act IN ('reply', 'settle', 'reopen', 'take', 'decline')),
    body      text NOT NULL DEFAULT '',
    person_id bigint NOT NULL REFERENCES people (id),
    at        timestamptz NOT NULL
);
CREATE INDEX replies_by_remark ON replies (remark_id, id);

-- Who was named with an @, where they are to look.
CREATE TABLE mentions (
    remark_id bigint NOT NULL REFERENCES remarks (id),
    person_id bigint NOT NULL REFERENCES people (id),
    at        timestamptz NOT NULL,
    PRIMARY KEY (remark_id, person_id)
);
CREATE INDEX mentions_by_person ON mentions (person_id);

-- By when a latch is to close, and who has taken it over.
CREATE TABLE reviews (
    revision_id bigint NOT NULL REFERENCES revisions (id),
    latch       text NOT NULL CHECK (latch IN ('author', 'technical', 'editorial', 'bench')),
    due         date,
    person_id   bigint REFERENCES people (id),
    PRIMARY KEY (revision_id, latch)
);
CREATE INDEX reviews_by_person ON reviews (person_id);

ALTER TABLE people ADD COLUMN away_from date, ADD COLUMN away_until date,
    -- Who wants a letter of what waits for them, and the day of the last one.
    ADD COLUMN letters text NOT NULL DEFAULT 'daily' CHECK (letters IN ('daily', 'never')),
    ADD COLUMN lettered date;

-- Releases that were taken back.
CREATE TABLE withdrawals (
    revision_id bigint PRIMARY KEY REFERENCES revisions (id),
    reason      text NOT NULL,
    person_id   bigint NOT NULL REFERENCES people (id),
    at          timestamptz NOT NULL
);

-- Where a tool, a part, a value or a word stands: by the steps of what is open and
-- of what holds, and on the sheets in use. It follows every save; what is missing or
-- was made by other rules is made again.
CREATE TABLE uses (
    revision_id bigint REFERENCES revisions (id),
    sheet_id    bigint REFERENCES sheets (id),
    step_id     text NOT NULL DEFAULT '',
    kind        text NOT NULL,
    term        text NOT NULL,
    key         text NOT NULL,
    said        text NOT NULL,
    words       tsvector GENERATED ALWAYS AS (to_tsvector('simple'::regconfig, CASE WHEN kind = 'words' THEN said ELSE term END)) STORED
);
CREATE INDEX uses_of_revision ON uses (revision_id, step_id);
CREATE INDEX uses_of_sheet ON uses (sheet_id);
CREATE INDEX uses_by_key ON uses (key text_pattern_ops);
CREATE INDEX uses_by_words ON uses USING gin (words);
CREATE TABLE indexed (
    revision_id bigint PRIMARY KEY REFERENCES revisions (id),
    sheet_id    bigint NOT NULL,
    edition     text NOT NULL
);

-- What readers say was wrong at a step of a released sheet, and what came of it.
CREATE TABLE field_notes (
    id          bigserial PRIMARY KEY,
    revision_id bigint NOT NULL REFERENCES revisions (id),
    step_id     text NOT NULL DEFAULT '',
    said        text NOT NULL DEFAULT '',
    body        text NOT NULL,
    person_id   bigint NOT NULL REFERENCES people (id),
    at          timestamptz NOT NULL,
    state       text NOT NULL DEFAULT 'open' CHECK (state IN ('open', 'answered', 'point', 'closed')),
    answer      text NOT NULL DEFAULT '',
    answered_by bigint REFERENCES people (id),
    answered_at timestamptz,
    remark_id   bigint REFERENCES remarks (id)
);
CREATE INDEX field_notes_by_revision ON field_notes (revision_id, id);
CREATE INDEX field_notes_by_person ON field_notes (person_id);
CREATE INDEX field_notes_open ON field_notes (revision_id) WHERE state = 'open';
CREATE TABLE field_photos (
    note_id bigint PRIMARY KEY REFERENCES field_notes (id),
    kind    text NOT NULL CHECK (kind IN ('image/jpeg', 'image/png', 'image/webp')),
    photo   bytea NOT NULL CHECK (length(photo) <= 5242880)
);

ALTER TABLE revisions
    DROP CONSTRAINT revisions_state_check,
    ADD CONSTRAINT revisions_state_check CHECK (state IN ('draft', 'on review', 'latched', 'superseded', 'withdrawn', 'deleted'));

CREATE INDEX revisions_withdrawn ON revisions (procedure_id) WHERE state = 'withdrawn';

-- +goose StatementBegin
CREATE OR REPLACE FUNCTION keep_latched() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'INSERT' THEN
        IF NEW.state <> 'draft' OR NEW.frozen <> '' OR NEW.sha256 <> '' OR NEW.latched_at IS NOT NULL THEN
            RAISE EXCEPTION 'a revision starts as a draft';
        END IF;
        RETURN NEW;
    END IF;
    IF OLD.state IN ('latched', 'superseded', 'withdrawn') THEN
        IF TG_OP = 'DELETE' OR NEW.state NOT IN ('latched', 'superseded', 'withdrawn') OR OLD.state IN ('superseded', 'withdrawn') AND NEW.state <> OLD.state
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
    IF NEW.state IN ('superseded', 'withdrawn') THEN
        RAISE EXCEPTION 'revision % was never latched', OLD.id;
    END IF;
    IF NEW.state = 'latched' THEN
        IF NEW.frozen = '' OR NEW.sha256 <> encode(sha256(convert_to(NEW.frozen, 'UTF8')), 'hex') OR NEW.sheet_id IS NULL OR NEW.latched_at IS NULL THEN
            RAISE EXCEPTION 'revision % is latched with a file that is its own', OLD.id;
        END IF;
        IF (SELECT count(DISTINCT latch) FROM closings WHERE revision_id = OLD.id AND latch IN ('author', 'technical', 'editorial')) < 3 THEN
            RAISE EXCEPTION 'revision % has latches open', OLD.id;
        END IF;
        IF EXISTS (SELECT 1 FROM remarks WHERE revision_id = OLD.id AND kind = 'must-change' AND state = 'open') THEN
            RAISE EXCEPTION 'revision % has a point open that must be changed', OLD.id;
        END IF;
    ELSIF NEW.frozen <> '' OR NEW.sha256 <> '' OR NEW.latched_at IS NOT NULL THEN
        RAISE EXCEPTION 'only a latched revision is frozen';
    END IF;
    RETURN NEW;
END $$;

CREATE OR REPLACE FUNCTION keep_latched_parts() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP <> 'INSERT' AND EXISTS (SELECT 1 FROM revisions WHERE id = OLD.revision_id AND state IN ('latched', 'superseded', 'withdrawn', 'deleted')) THEN
        RAISE EXCEPTION 'revision % is latched or deleted and never changes', OLD.revision_id;
    END IF;
    IF TG_OP <> 'DELETE' AND EXISTS (SELECT 1 FROM revisions WHERE id = NEW.revision_id AND state IN ('latched', 'superseded', 'withdrawn', 'deleted')) THEN
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

CREATE FUNCTION keep_remarks() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'DELETE' OR (to_jsonb(NEW) - 'state') <> (to_jsonb(OLD) - 'state') OR OLD.state = 'taken' AND NEW.state <> 'taken' THEN
        RAISE EXCEPTION 'what somebody said stays as they said it';
    END IF;
    RETURN NEW;
END $$;

CREATE FUNCTION keep_notes() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'DELETE' OR (to_jsonb(NEW) - 'state' - 'answer' - 'answered_by' - 'answered_at' - 'remark_id') <> (to_jsonb(OLD) - 'state' - 'answer' - 'answered_by' - 'answered_at' - 'remark_id')
       OR NEW.state = 'open' AND OLD.state <> 'open' THEN
        RAISE EXCEPTION 'a field note stays as its reader wrote it';
    END IF;
    RETURN NEW;
END $$;
-- +goose StatementEnd

CREATE TRIGGER field_notes_kept BEFORE UPDATE OR DELETE ON field_notes FOR EACH ROW EXECUTE FUNCTION keep_notes();
CREATE TRIGGER field_photos_kept BEFORE UPDATE OR DELETE ON field_photos FOR EACH ROW EXECUTE FUNCTION keep_whole();
CREATE TRIGGER remarks_kept BEFORE UPDATE OR DELETE ON remarks FOR EACH ROW EXECUTE FUNCTION keep_remarks();
CREATE TRIGGER replies_kept BEFORE UPDATE OR DELETE ON replies FOR EACH ROW EXECUTE FUNCTION keep_whole();
CREATE TRIGGER withdrawals_kept BEFORE UPDATE OR DELETE ON withdrawals FOR EACH ROW EXECUTE FUNCTION keep_whole();

-- +goose StatementBegin
DO $$
DECLARE
    t text;
    f text;
BEGIN
    FOREACH t IN ARRAY ARRAY['remarks', 'replies', 'withdrawals', 'field_notes', 'field_photos'] LOOP
        EXECUTE format('CREATE TRIGGER %I BEFORE TRUNCATE ON %I EXECUTE FUNCTION keep_whole()', t || '_kept_whole', t);
    END LOOP;
    FOREACH f IN ARRAY ARRAY['keep_latched', 'keep_latched_parts', 'keep_remarks', 'keep_notes'] LOOP
        EXECUTE format('ALTER FUNCTION %I() SET search_path = %I, pg_temp', f, current_schema());
    END LOOP;
END $$;
-- +goose StatementEnd

-- +goose Down
SELECT 1 / 0 AS "there is no way back from here; restore a backup";
