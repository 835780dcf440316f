-- +goose Up
-- Studies are documents: kept whole, described by the table of fields of the
-- core. Lists that grow stand in parts of their own.
create table documents (
    id           uuid primary key,
    workspace_id uuid not null references workspaces on delete cascade,
    kind         text not null,
    key          text not null,
    title        text not null,
    facts        jsonb, -- what is asked of many at once; none: to be worked out
    revision     bigint not null default 1,
    updated_at   timestamptz not null default now(),
    deleted_at   timestamptz
);
-- Facts stand beside the rows: looking through thousands of rows reads none.
alter table documents alter column facts set storage external;
alter table documents set (toast_tuple_target = 128);
create unique index documents_key on documents (workspace_id, kind, key) where deleted_at is null;
-- Titles are looked through by any part of them. Where the server lacks the
-- extension it is slower among thousands, and finds the same.
-- +goose StatementBegin
do $$ begin
    create extension if not exists pg_trgm;
    execute 'create index documents_title on documents using gin (lower(title) gin_trgm_ops) where deleted_at is null';
exception when others then
    raise notice 'titles are searched without an index: %', sqlerrm;
end $$;
-- +goose StatementEnd
create index documents_latest on documents (workspace_id, kind, updated_at desc, id desc) where deleted_at is null;

create table document_parts (
    document_id uuid not null references documents on delete cascade,
    part        text not null,
    body        text not null,
    primary key (document_id, part)
);

-- Editions that a document goes by, and those it went by lately: what rests in
-- the bin comes back with them.
create table document_editions (
    document_id uuid not null references documents on delete cascade,
    edition_id  uuid not null references editions,
    left_at     timestamptz,
    primary key (document_id, edition_id)
);
create index document_editions_edition on document_editions (edition_id);

insert into documents (id, workspace_id, kind, key, title, revision, updated_at, deleted_at)
    select id, workspace_id, 'study', key, title, revision + 1, updated_at, deleted_at from studies;

-- +goose StatementBegin
create function pg_temp.share(ratio numeric) returns text language sql as $$ select trim_scale(ratio * 100)::text || '%' $$;
create function pg_temp.option(o study_options) returns json language sql as $$
    select json_build_object('key', o.key, 'platform', p.key, 'observed_on', e.observed_on::text, 'name', o.name, 'face', o.face, 'now', o.is_now)
    from editions e join platforms p on p.id = e.platform_id where e.id = o.edition_id
$$;
create function pg_temp.rating(r study_ratings) returns json language sql as $$
    select json_build_object('rater', r.person_id, 'option', o.key, 'criterion', c.key, 'value', trim_scale(r.value)::text, 'reason', r.reason)
    from study_options o, study_criteria c where o.id = r.option_id and c.id = r.criterion_id
$$;
create function pg_temp.rating_path(r study_ratings) returns text language sql as $$
    select 'ratings.' || r.person_id || '/' || o.key || '/' || c.key from study_options o, study_criteria c where o.id = r.option_id and c.id = r.criterion_id
$$;
create function pg_temp.own_driver(d jsonb) returns json language sql as $$
    select json_build_object('key', d->>'Key', 'name', d->>'Name', 'unit', d->>'Unit', 'kind', d->>'Kind', 'formula', coalesce(d->>'Formula', ''), 'about', coalesce(d->>'About', ''))
$$;
-- +goose StatementEnd

insert into document_parts (document_id, part, body)
    select s.id, 'main', json_build_object(
        'format', 'nine-coins/study/1', 'key', s.key, 'title', s.title, 'company', s.company, 'question', s.question, 'currency', s.currency, 'start', s.start,
        'months', s.months, 'pay', s.pay, 'budget', trim_scale(s.budget)::text, 'patience_days', s.patience,
        'rates', coalesce((select json_agg(json_build_object('currency', r.currency, 'rate', trim_scale(r.rate)::text, 'on', r.stands::text) order by r.currency)
            from study_rates r where r.study_id = s.id), '[]'),
        'drivers', coalesce((select json_agg(json_build_object('driver', d.driver, 'now', trim_scale(d.value)::text, 'growth', pg_temp.share(d.growth)) order by d.position)
            from study_drivers d where d.study_id = s.id), '[]'),
        'own_drivers', coalesce((select json_agg(pg_temp.own_driver(d.value) order by d.ordinality)
            from jsonb_array_elements(case jsonb_typeof(s.own_drivers) when 'array' then s.own_drivers else '[]' end) with ordinality d), '[]'),
        'needs', coalesce((select json_agg(json_build_object('feature', n.feature, 'name', n.name, 'note', n.note, 'level', n.level) order by n.position)
            from study_needs n where n.study_id = s.id), '[]'),
        'options', coalesce((select json_agg(pg_temp.option(o) order by o.position) from study_options o where o.study_id = s.id and o.deleted_at is null), '[]'),
        'criteria', coalesce((select json_agg(case c.source
                when 'cost' then json_build_object('key', c.key, 'name', c.name, 'note', c.note, 'source', c.source, 'weight', pg_temp.share(c.weight),
                    'best', trim_scale(c.best)::text, 'worst', trim_scale(c.worst)::text)
                else json_build_object('key', c.key, 'name', c.name, 'note', c.note, 'source', c.source, 'weight', pg_temp.share(c.weight)) end order by c.position)
            from study_criteria c where c.study_id = s.id), '[]'))::text
    from studies s;
insert into document_parts (document_id, part, body)
    select s.id, 'ratings', json_build_object('format', 'nine-coins/study/1', 'ratings', coalesce((select json_agg(pg_temp.rating(r) order by r.person_id, o.position, c.position)
        from study_ratings r join study_options o on o.id = r.option_id join study_criteria c on c.id = r.criterion_id
        where r.study_id = s.id and o.deleted_at is null), '[]'))::text
    from studies s;
insert into document_editions (document_id, edition_id, left_at)
    select study_id, edition_id, case when bool_and(deleted_at is not null) then max(deleted_at) end from study_options group by study_id, edition_id;

-- One history of operations, each with what it takes to take it back.
alter table changes add column document_id uuid references documents on delete cascade;
alter table changes add column wide boolean not null default false; -- of the workspace: what its undo takes back
alter table changes add column need text not null default '';       -- the least role that may take it back; '': it is only noted
alter table changes add column ops jsonb not null default '[]';
alter table changes add column paths text[] not null default '{}';
alter table changes add column says jsonb not null default '[]';    -- in words, with names as they were then
alter table changes add column removed text not null default '';    -- path of an item that was removed: it rests in the bin
update changes set document_id = study_id, wide = study_id is null or edit = 'study';

-- An option that rests in the bin without a change that put it there gets one.
insert into changes (id, workspace_id, document_id, study_id, made_at, touched_at, edit, of, option, rater, was, became, name)
    select gen_random_uuid(), s.workspace_id, s.id, s.id, o.deleted_at, o.deleted_at, 'option', o.key, '', '', 'here', 'in the bin', o.name
    from study_options o join studies s on s.id = o.study_id
    where o.deleted_at is not null and coalesce((select c.became from changes c where c.study_id = s.id and c.edit = 'option' and c.of = o.key and c.undone_at is null
        order by c.seq desc limit 1), '') <> 'in the bin';

update changes set ops = jsonb_build_array(jsonb_build_object('do', 'set', 'path', 'pay', 'was', was, 'to', became)) where edit = 'pay';
update changes set ops = jsonb_build_array(jsonb_build_object('do', 'set', 'path', 'drivers.' || of || '.now', 'was', was, 'to', became)) where edit = 'driver';
update changes set ops = jsonb_build_array(jsonb_build_object('do', 'set', 'path', 'drivers.' || of || '.growth', 'was', pg_temp.share(was::numeric), 'to', pg_temp.share(became::numeric)))
    where edit = 'growth';
update changes set ops = jsonb_build_array(jsonb_build_object('do', 'set', 'path', 'criteria.' || of || '.weight', 'was', pg_temp.share(was::numeric), 'to', pg_temp.share(became::numeric)))
    where edit = 'weight';
update changes set ops = jsonb_build_array(jsonb_build_object('do', 'set', 'path', 'criteria.' || of || '.' || edit, 'was', was, 'to', became)) where edit in ('best', 'worst');
update changes c set ops = jsonb_build_array(case
        when c.was <> '' and c.became <> '' then jsonb_build_object('do', 'set', 'path', 'ratings.' || p.id || '/' || c.option || '/' || c.of || '.value', 'was', c.was, 'to', c.became)
        when c.was = '' then jsonb_build_object('do', 'insert', 'path', 'ratings.' || p.id || '/' || c.option || '/' || c.of,
            'to', json_build_object('rater', p.id, 'option', c.option, 'criterion', c.of, 'value', c.became, 'reason', c.kept)::text)
        else jsonb_build_object('do', 'remove', 'path', 'ratings.' || p.id || '/' || c.option || '/' || c.of,
            'was', json_build_object('rater', p.id, 'option', c.option, 'criterion', c.of, 'value', c.was, 'reason', c.kept)::text) end)
    from people p where c.edit = 'rating' and p.workspace_id = c.workspace_id and p.name = c.rater;
update changes c set
    ops = case c.became when 'in the bin' then r.all_removed || jsonb_build_array(r.removed) else jsonb_build_array(r.inserted) || r.all_inserted end,
    removed = case c.became when 'in the bin' then 'options.' || c.of else '' end
    from (select o.study_id, o.key,
            jsonb_build_object('do', 'remove', 'path', 'options.' || o.key, 'was', pg_temp.option(o)::text, 'before', n.before) removed,
            jsonb_build_object('do', 'insert', 'path', 'options.' || o.key, 'to', pg_temp.option(o)::text, 'before', n.before) inserted,
            coalesce((select jsonb_agg(jsonb_build_object('do', 'remove', 'path', pg_temp.rating_path(g), 'was', pg_temp.rating(g)::text) order by g.person_id, g.criterion_id)
                from study_ratings g where g.option_id = o.id), '[]') all_removed,
            coalesce((select jsonb_agg(jsonb_build_object('do', 'insert', 'path', pg_temp.rating_path(g), 'to', pg_temp.rating(g)::text) order by g.person_id desc, g.criterion_id desc)
                from study_ratings g where g.option_id = o.id), '[]') all_inserted
        from study_options o, lateral (select coalesce((select l.key from study_options l where l.study_id = o.study_id and l.deleted_at is null and l.position > o.position
            order by l.position limit 1), '') before) n) r
    where c.edit = 'option' and r.study_id = c.document_id and r.key = c.of;
update changes set ops = jsonb_build_array(jsonb_build_object('do', case became when 'in the bin' then 'remove' else 'insert' end, 'path',
        case edit when 'study' then 'studies.' else 'platforms.' end || of))
    where edit in ('study', 'platform');

update changes set paths = array(select o->>'path' from jsonb_array_elements(ops) o) where ops <> '[]';
update changes set paths = array[edit] where ops = '[]';
update changes set need = case edit when 'rating' then 'rater' else 'editor' end where ops <> '[]';
update changes set says = jsonb_build_array(jsonb_build_object('label', case when edit in ('study', 'platform', 'option') or ops = '[]'
        then upper(left(edit, 1)) || substr(edit, 2) || coalesce(' ' || nullif(name, ''), '') else '' end,
        'was', case when was = 'here' and edit = 'option' then 'in the line-up' else was end, 'to', case when became = 'here' and edit = 'option' then 'in the line-up' else became end));

drop index changes_study;
drop index changes_undo;
drop index changes_redo;
drop index changes_last;
create index changes_document on changes (document_id, seq desc);
create index changes_undo on changes (document_id, person_id, seq desc) where need <> '';
create index changes_redo on changes (document_id, person_id) where undone_at is not null and not lapsed;
create index changes_last on changes (document_id, touched_at desc);
create index changes_removed on changes (workspace_id, touched_at desc) where removed <> '';
alter table changes drop column study_id;

alter table reading_links drop constraint reading_links_study_id_fkey;
alter table reading_links add constraint reading_links_study_id_fkey foreign key (study_id) references documents on delete cascade;

drop function pg_temp.share(numeric);
drop function pg_temp.option(study_options);
drop function pg_temp.rating(study_ratings);
drop function pg_temp.rating_path(study_ratings);
drop function pg_temp.own_driver(jsonb);

-- +goose Down
select 1; -- migrations go forward only
