-- +goose Up
-- Changes stand in the order in which the database took them, whatever the
-- clocks of the processes that made them say.
alter table changes add column seq bigint;
update changes c set seq = r.n from (select id, row_number() over (order by id) n from changes) r where r.id = c.id;
alter table changes alter column seq set not null, alter column seq add generated always as identity;
select setval(pg_get_serial_sequence('changes', 'seq'), (select coalesce(max(seq), 0) + 1 from changes), false);
drop index changes_study;
drop index changes_workspace;
drop index changes_undo;
create index changes_study on changes (study_id, seq desc);
create index changes_workspace on changes (workspace_id, seq desc);
create index changes_undo on changes (study_id, person_id, seq desc);

-- +goose Down
select 1; -- migrations go forward only
