-- +goose Up
-- Pages that begin or end in the middle of a job are few: they are found without reading
-- all pages of their code.
CREATE INDEX revisions_parts ON revisions (nullif(jsonb_exists(header::jsonb, 'begins') OR jsonb_exists(header::jsonb, 'ends'), false));

-- What changes too often for a line of the record each is sealed with a key that stands
-- outside the database. Whoever is signed in signs in once more.
ALTER TABLE readings ADD COLUMN seal text NOT NULL DEFAULT '';
ALTER TABLE sheet_readings ADD COLUMN seal text NOT NULL DEFAULT '';
-- What somebody has read since their page was last written whole, a line each: a save
-- writes a line of its own and not all that they have read.
CREATE TABLE reading_marks (
    procedure_id bigint NOT NULL,
    person_id    bigint NOT NULL,
    n            int NOT NULL,
    mark         text NOT NULL,
    seal         text NOT NULL,
    PRIMARY KEY (procedure_id, person_id, n),
    FOREIGN KEY (procedure_id, person_id) REFERENCES readings (procedure_id, person_id)
);
ALTER TABLE sessions ADD COLUMN seal text NOT NULL DEFAULT '';
DELETE FROM sessions;

-- +goose Down
SELECT 1 / 0 AS "there is no way back from here; restore a backup";
