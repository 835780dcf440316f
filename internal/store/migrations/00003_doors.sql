-- +goose Up
create table accounts (
    id       uuid primary key,
    name     text not null,
    email    text not null,
    password text not null default '', -- argon2id in the PHC string format; none: nobody signs in with one
    epoch    bigint not null default 1, -- sessions begun under an earlier one have ended
    made_at  timestamptz not null default now()
);
create unique index accounts_email on accounts (lower(email));

-- People are names in a workspace: who rates, and who changed what. One may
-- have an account.
alter table people add column account_id uuid references accounts on delete set null;
create unique index people_account on people (workspace_id, account_id) where account_id is not null;

create table members (
    workspace_id uuid not null references workspaces on delete cascade,
    account_id   uuid not null references accounts on delete cascade,
    person_id    uuid not null references people on delete cascade,
    role         text not null check (role in ('reader', 'rater', 'editor', 'owner')),
    joined_at    timestamptz not null default now(),
    primary key (workspace_id, account_id)
);
create index members_account on members (account_id);

-- Links that open once. Of the secret in the address only the hash is kept.
create table passes (
    id           uuid primary key,
    hash         bytea not null unique,
    opens        text not null check (opens in ('set-up', 'invitation', 'new password')),
    workspace_id uuid references workspaces on delete cascade, -- invitation
    email        text not null default '',                    -- invitation
    role         text not null default '',                    -- invitation
    made_by      uuid references people on delete set null,    -- invitation
    account_id   uuid references accounts on delete cascade,   -- new password
    made_at      timestamptz not null default now(),
    ends_at      timestamptz not null,
    used_at      timestamptz,
    withdrawn_at timestamptz
);
create index passes_workspace on passes (workspace_id);

-- Reading links show one study to whoever has the address.
create table reading_links (
    id           uuid primary key,
    study_id     uuid not null references studies on delete cascade,
    hash         bytea not null unique,
    label        text not null, -- for whom
    names        boolean not null, -- whether names of people are shown
    made_by      uuid references people on delete set null,
    made_at      timestamptz not null default now(),
    ends_at      timestamptz not null,
    withdrawn_at timestamptz,
    opened       bigint not null default 0,
    opened_at    timestamptz
);
create index reading_links_study on reading_links (study_id);

create table sessions ( -- as the session store wants it
    token  text primary key,
    data   bytea not null,
    expiry timestamptz not null
);
create index sessions_expiry on sessions (expiry);

create table tries ( -- at doors, by a hash of the account's email or of the address
    key bytea not null,
    at  timestamptz not null default clock_timestamp()
);
create index tries_key on tries (key, at);

create table letters ( -- what the stand-in for a mail server was given
    id      uuid primary key,
    sent_at timestamptz not null default now(),
    "to"    text not null,
    subject text not null,
    text    text not null
);

-- Changes tell who made them, and are of a workspace where they are of no study.
alter table changes add column workspace_id uuid references workspaces on delete cascade;
update changes set workspace_id = (select workspace_id from studies where studies.id = changes.study_id);
alter table changes alter column workspace_id set not null;
alter table changes alter column study_id drop not null;
alter table changes add column person_id uuid references people on delete set null;
-- left as it is by its maker when something else stood in the way of undoing it
alter table changes add column passed boolean not null default false;
alter table changes add column name text not null default ''; -- of the thing, where its row may be gone
-- made, undone or redone, whichever came last
alter table changes add column touched_at timestamptz;
update changes set touched_at = coalesce(undone_at, made_at);
alter table changes alter column touched_at set not null, alter column touched_at set default clock_timestamp();
create index changes_workspace on changes (workspace_id, id desc);
create index changes_undo on changes (study_id, person_id, id desc);
create index changes_redo on changes (study_id, person_id) where undone_at is not null and not lapsed;
create index changes_last on changes (study_id, touched_at desc);

-- The bin.
alter table study_options add column deleted_at timestamptz;
alter table platforms add column deleted_at timestamptz;

-- +goose Down
select 1; -- migrations go forward only
