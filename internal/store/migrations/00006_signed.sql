-- +goose Up
-- What somebody was called when they closed a latch stays with it.
ALTER TABLE closings ADD COLUMN name text NOT NULL DEFAULT '';

-- A question or a point may be waived by a lead, with a reason. Engine sheets are
-- spoken of like pages.
ALTER TABLE remarks
    DROP CONSTRAINT remarks_state_check,
    ADD CONSTRAINT remarks_state_check CHECK (state IN ('open', 'settled', 'taken', 'declined', 'waived')),
    DROP CONSTRAINT remarks_place_check,
    ADD CONSTRAINT remarks_place_check CHECK (place IN ('page', 'phase', 'step', 'words', 'drawing', 'thing')),
    ALTER COLUMN revision_id DROP NOT NULL,
    ADD COLUMN sheet_id bigint REFERENCES sheets (id),
    ADD CONSTRAINT remarks_of_one CHECK ((revision_id IS NULL) <> (sheet_id IS NULL));
CREATE INDEX remarks_by_sheet ON remarks (sheet_id, id) WHERE sheet_id IS NOT NULL;
ALTER TABLE replies
    DROP CONSTRAINT replies_act_check,
    ADD CONSTRAINT replies_act_check CHECK (act IN ('reply', 'settle', 'reopen', 'take', 'decline', 'waive'));

-- What somebody has read of a draft of an engine sheet, by thing, and who asked for it
-- to be looked at.
CREATE TABLE sheet_readings (
    sheet_id  bigint NOT NULL REFERENCES sheets (id),
    person_id bigint NOT NULL REFERENCES people (id),
    things    text NOT NULL,
    at        timestamptz NOT NULL,
    PRIMARY KEY (sheet_id, person_id)
);
ALTER TABLE sheets ADD COLUMN asked_by bigint REFERENCES people (id), ADD COLUMN asked_at timestamptz;

-- Values are found by every way to write them now; the index is made again.
DELETE FROM uses;
DELETE FROM indexed;

-- A page that is clean may have free text all the same.
ALTER TABLE standings ADD COLUMN free int NOT NULL DEFAULT 0;
DELETE FROM standings;

-- A release has no open question either.
-- +goose StatementBegin
CREATE FUNCTION keep_questions() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF NEW.state = 'latched' AND OLD.state <> 'latched' THEN
        IF EXISTS (SELECT 1 FROM remarks WHERE revision_id = OLD.id AND kind IN ('question', 'must-change') AND state = 'open') THEN
            RAISE EXCEPTION 'revision % has a question open', OLD.id;
        END IF;
        IF EXISTS (SELECT 1 FROM revisions WHERE procedure_id = OLD.procedure_id AND number > OLD.number AND latched_at IS NOT NULL) THEN
            RAISE EXCEPTION 'a later revision than % was released already', OLD.id;
        END IF;
    END IF;
    RETURN NEW;
END $$;
DO $$
BEGIN
    EXECUTE format('ALTER FUNCTION keep_questions() SET search_path = %I, pg_temp', current_schema());
END $$;
-- +goose StatementEnd
CREATE TRIGGER questions_kept BEFORE UPDATE ON revisions FOR EACH ROW EXECUTE FUNCTION keep_questions();

-- +goose Down
SELECT 1 / 0 AS "there is no way back from here; restore a backup";
