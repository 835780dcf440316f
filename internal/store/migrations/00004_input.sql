-- +goose Up
-- What a name looks like: of two people in a workspace whose names could be
-- taken for one another, only one is let in. Filled by the migration after this.
alter table people add column likeness text;

-- A new email is confirmed by a letter to it.
alter table passes drop constraint passes_opens_check;
alter table passes add constraint passes_opens_check check (opens in ('set-up', 'invitation', 'new password', 'new email'));

-- Who opened a reading link goes on reading by a secret of their own, a row for
-- each link: links that are opened at once do not get in each other's way.
create table reading_visits (
    hash    bytea primary key,
    link_id uuid not null references reading_links on delete cascade,
    made_at timestamptz not null default now()
);
create index reading_visits_link on reading_visits (link_id);

-- Addresses that are shown once, to the account that made them.
create table shown_once (
    id         uuid primary key,
    account_id uuid not null references accounts on delete cascade,
    place      text not null,
    text       text not null,
    made_at    timestamptz not null default now()
);
create index shown_once_account on shown_once (account_id, place);

-- +goose Down
select 1; -- migrations go forward only
