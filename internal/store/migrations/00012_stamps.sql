-- +goose Up
-- A revision of a document is told from another of the same number by its stamp: after a backup
-- was restored, numbers are given out again.
alter table documents add column stamp uuid not null default gen_random_uuid();

-- +goose StatementBegin
create function stamp_revision() returns trigger language plpgsql as $$
begin
    new.stamp = gen_random_uuid();
    return new;
end $$;
-- +goose StatementEnd
create trigger documents_stamped before update of revision on documents
    for each row when (new.revision <> old.revision and new.stamp = old.stamp) execute function stamp_revision();

-- +goose Down
select 1; -- migrations go forward only
