package web_test

import (
	"net/url"
	"testing"

	"ninecoins/internal/demo"
	"ninecoins/internal/store"
	"ninecoins/internal/testkit"

	"github.com/jackc/pgx/v5"
	"github.com/stretchr/testify/require"
)

// many repeats the demo's platforms, with their price lists, to 2,000 and its studies,
// with what they go by, to 10,000.
const many = `
create temp table p as select id, n, gen_random_uuid() as copy from (select id, row_number() over (order by key) as row, count(*) over () as of from platforms) r, generate_series(1, 1981) n where n % of = row - 1;
insert into platforms (id, workspace_id, key, name, does, about) select copy, workspace_id, key || '-' || n, name || ' ' || n, does, about from platforms join p using (id);
create temp table e as select e.id, p.copy as platform, gen_random_uuid() as copy from editions e join p on p.id = e.platform_id;
insert into editions select (jsonb_populate_record(o, jsonb_build_object('id', e.copy, 'platform_id', e.platform))).* from editions o join e using (id);
create temp table d as select id, n, gen_random_uuid() as copy from (select id, row_number() over (order by key) as row, count(*) over () as of from documents where kind = 'study' and deleted_at is null) r, generate_series(2, 10000) n where n % of = row - 1;
insert into documents (id, workspace_id, kind, key, title, facts, revision, updated_at)
	select d.copy, workspace_id, kind, key || '-' || n, title || ' ' || n, facts, revision, updated_at - n * interval '1 minute' from documents join d using (id);
insert into document_parts select d.copy, part, body from document_parts p join d on d.id = p.document_id;
insert into document_editions select d.copy, l.edition_id from document_editions l join d on d.id = l.document_id where l.left_at is null;
analyze`

// BenchmarkMany asks for the Desk and the shelf of the demo, and again with 2,000
// platforms and 10,000 studies.
func BenchmarkMany(b *testing.B) {
	for _, size := range []string{"demo", "2000x10000"} {
		app := testkit.Start(b, false)
		var err error
		app.Study, err = demo.Bring(b.Context(), app.Store, store.Editing{Workspace: app.Workspace.ID})
		require.NoError(b, err)
		if size != "demo" {
			conn, err := pgx.Connect(b.Context(), app.Database)
			require.NoError(b, err)
			_, err = conn.Exec(b.Context(), many)
			require.NoError(b, err)
			require.NoError(b, conn.Close(b.Context()))
		}
		for name, page := range map[string]string{
			"desk": "/", "desk-search": "/?title=" + url.QueryEscape("spring list"), "shelf": "/shelf", "shelf-search": "/shelf?find=brind",
			"shelf-category": "/shelf?does=CRM", "platform": "/shelf/platforms/brindlepost",
			"line-up-search": app.Page("line-up")[len(app.Address):] + "?find=brind",
		} {
			b.Run(size+"/"+name, func(b *testing.B) {
				for b.Loop() {
					if a := get(b, app.Client, app.Address+page); a.status != 200 {
						b.Fatal(a.status)
					}
				}
			})
		}
	}
}
