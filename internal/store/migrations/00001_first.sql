-- +goose Up
create table workspaces (
    id         uuid primary key,
    name       text not null,
    created_at timestamptz not null default now()
);

create table people (
    id           uuid primary key,
    workspace_id uuid not null references workspaces on delete cascade,
    name         text not null,
    unique (workspace_id, name)
);

create table platforms (
    id           uuid primary key,
    workspace_id uuid not null references workspaces on delete cascade,
    key          text not null,
    name         text not null,
    does         text[] not null,
    unique (workspace_id, key)
);

create table editions (
    id           uuid primary key,
    workspace_id uuid not null references workspaces on delete cascade,
    platform_id  uuid not null references platforms on delete cascade,
    observed_on  date not null,
    source       text not null,
    currency     text not null,
    document     text not null, -- the file in the open format, as it was imported
    published_at timestamptz not null default now(),
    unique (platform_id, observed_on)
);

-- +goose StatementBegin
create function refuse_change() returns trigger language plpgsql as $$
begin
    raise exception 'a published edition never changes; a correction is a new edition' using errcode = 'restrict_violation';
end $$;
-- +goose StatementEnd
create trigger editions_never_change before update on editions for each row execute function refuse_change();

create table studies (
    id           uuid primary key,
    workspace_id uuid not null references workspaces on delete cascade,
    key          text not null,
    title        text not null,
    company      text not null,
    question     text not null,
    currency     text not null,
    start        text not null, -- ISO 8601 month
    months       integer not null,
    pay          text not null,
    budget       numeric(18, 6) not null,
    patience     integer not null,
    own_drivers  jsonb not null,
    revision     bigint not null default 1,
    updated_at   timestamptz not null default now(),
    deleted_at   timestamptz
);
create unique index studies_key on studies (workspace_id, key) where deleted_at is null;

create table study_rates (
    study_id uuid not null references studies on delete cascade,
    currency text not null,
    rate     numeric(18, 6) not null,
    stands   date not null,
    primary key (study_id, currency)
);

create table study_drivers (
    study_id uuid not null references studies on delete cascade,
    position integer not null,
    driver   text not null,
    value    numeric(20, 6) not null,
    growth   numeric(10, 6) not null, -- a month, as a ratio
    revision bigint not null default 1,
    primary key (study_id, driver)
);

create table study_needs (
    id       uuid primary key,
    study_id uuid not null references studies on delete cascade,
    position integer not null,
    feature  text not null,
    name     text not null,
    note     text not null,
    level    text not null,
    revision bigint not null default 1
);

create table study_options (
    id         uuid primary key,
    study_id   uuid not null references studies on delete cascade,
    position   integer not null,
    key        text not null,
    name       text not null,
    face       integer not null,
    is_now     boolean not null,
    edition_id uuid not null references editions,
    revision   bigint not null default 1,
    unique (study_id, key)
);

create table study_criteria (
    id       uuid primary key,
    study_id uuid not null references studies on delete cascade,
    position integer not null,
    key      text not null,
    name     text not null,
    note     text not null,
    source   text not null,
    weight   numeric(10, 6) not null, -- of 1
    best     numeric(18, 6) not null,
    worst    numeric(18, 6) not null,
    revision bigint not null default 1,
    unique (study_id, key),
    constraint best_is_not_above_worst check (best <= worst)
);

create table study_ratings (
    study_id     uuid not null references studies on delete cascade,
    person_id    uuid not null references people,
    option_id    uuid not null references study_options on delete cascade,
    criterion_id uuid not null references study_criteria on delete cascade,
    value        numeric(2, 1) not null,
    reason       text not null,
    revision     bigint not null default 1,
    primary key (person_id, option_id, criterion_id)
);
create index study_ratings_study on study_ratings (study_id);

-- +goose Down
select 1; -- migrations go forward only
