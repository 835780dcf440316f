-- +goose Up
create table changes (
    id        uuid primary key, -- version 7: in the order in which they were made
    study_id  uuid not null references studies on delete cascade,
    made_at   timestamptz not null default now(),
    edit      text not null, -- which kind of field: driver, growth, weight, ...
    of        text not null, -- of which thing: a driver's or a criterion's key
    option    text not null,
    rater     text not null,
    was       text not null,
    became    text not null,
    kept      text not null default '', -- a removed rating's reason, for when it is brought back
    undone_at timestamptz,
    -- undone, and no longer to be redone because something else was changed since
    lapsed    boolean not null default false
);
create index changes_study on changes (study_id, id desc);
