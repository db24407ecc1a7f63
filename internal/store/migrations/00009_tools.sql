-- +goose Up
-- The tools of every sheet, written with its card, so that a crib of all codes is one query.
CREATE TABLE sheet_tools (
    sheet_id    bigint NOT NULL REFERENCES sheets (id),
    number      text NOT NULL,
    name        text NOT NULL,
    kit         text NOT NULL,
    does        text NOT NULL,
    equivalents text NOT NULL,
    words       text NOT NULL GENERATED ALWAYS AS (lower(number || ' ' || name || ' ' || kit || ' ' || equivalents)) STORED
);
CREATE INDEX sheet_tools_of ON sheet_tools (sheet_id);
CREATE INDEX sheet_tools_by ON sheet_tools (number);

-- The documents of every sheet, and what rests on each.
CREATE TABLE sheet_sources (
    sheet_id bigint NOT NULL REFERENCES sheets (id),
    number   text NOT NULL,
    kind     text NOT NULL,
    name     text NOT NULL,
    issuer   text NOT NULL,
    dated    text NOT NULL,
    replaced text NOT NULL,
    rests    text NOT NULL,
    words    text NOT NULL GENERATED ALWAYS AS (lower(number || ' ' || kind || ' ' || name || ' ' || issuer)) STORED
);
CREATE INDEX sheet_sources_of ON sheet_sources (sheet_id);
CREATE INDEX sheet_sources_by ON sheet_sources (number);
