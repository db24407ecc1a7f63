-- +goose Up
-- What the house decided, version by version: the newest holds. Without any, the program's own
-- rules do.
CREATE TABLE house_rules (
    id        bigserial PRIMARY KEY,
    body      text NOT NULL,
    changes   text NOT NULL,
    why       text NOT NULL CHECK (length(why) BETWEEN 1 AND 2000),
    person_id bigint NOT NULL REFERENCES people (id),
    at        timestamptz NOT NULL
);
CREATE TRIGGER house_rules_kept BEFORE UPDATE OR DELETE ON house_rules FOR EACH ROW EXECUTE FUNCTION keep_whole();
CREATE TRIGGER house_rules_kept_whole BEFORE TRUNCATE ON house_rules EXECUTE FUNCTION keep_whole();

-- All pages under two sets of rules: before somebody saves the second, or (rules_id) after.
CREATE TABLE house_trials (
    id          bigserial PRIMARY KEY,
    rules_id    bigint REFERENCES house_rules (id),
    before      text NOT NULL,
    after       text NOT NULL,
    state       text NOT NULL,
    total       int NOT NULL,
    done        int NOT NULL,
    beat        timestamptz NOT NULL,
    person_id   bigint NOT NULL REFERENCES people (id),
    started_at  timestamptz NOT NULL,
    finished_at timestamptz
);
CREATE TABLE house_trial_rows (
    trial_id    bigint NOT NULL REFERENCES house_trials (id) ON DELETE CASCADE,
    revision_id bigint NOT NULL REFERENCES revisions (id),
    version     bigint NOT NULL,
    blocked     int NOT NULL,
    blocks      int NOT NULL,
    missed      int NOT NULL,
    misses      int NOT NULL,
    says        text NOT NULL,
    PRIMARY KEY (trial_id, revision_id)
);
CREATE INDEX house_trial_rows_of ON house_trial_rows (revision_id);

-- +goose Down
SELECT 1 / 0 AS "there is no way back from here; restore a backup";
