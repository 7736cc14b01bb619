module ivypocket

go 1.26.0

require (
	github.com/alexedwards/scs/v2 v2.9.0
	github.com/andybalholm/cascadia v1.3.5
	github.com/bojanz/currency v1.5.1
	github.com/chromedp/cdproto v0.159.0
	github.com/chromedp/chromedp v0.23.0
	github.com/danielgtaylor/huma/v2 v2.37.2
	github.com/expr-lang/expr v1.17.8
	github.com/gabriel-vasile/mimetype v1.4.16
	github.com/go-chi/chi/v5 v5.5.0
	github.com/go-text/typesetting v0.3.5
	github.com/google/renameio/v2 v2.0.2
	github.com/google/uuid v1.6.0
	github.com/hashicorp/golang-lru/v2 v2.0.7
	github.com/jmoiron/sqlx v1.4.0
	github.com/mattn/go-sqlite3 v1.14.53
	github.com/pressly/goose/v3 v3.29.0
	github.com/santhosh-tekuri/jsonschema/v6 v6.0.3
	github.com/spf13/cobra v1.10.2
	github.com/spf13/pflag v1.0.10
	github.com/tdewolff/parse/v2 v2.8.20
	github.com/tus/tusd/v2 v2.9.1
	golang.org/x/exp v0.0.0-20261011100332-faecfb24eb49
	golang.org/x/image v0.47.0
	golang.org/x/net v0.62.0
	golang.org/x/sync v0.25.0
	golang.org/x/text v0.44.0
	golang.org/x/time v0.16.0
)

require (
	github.com/cockroachdb/apd/v3 v3.2.3 // indirect
	github.com/go-json-experiment/json v0.0.0-20260213210345-44df1a37e875 // indirect
	github.com/inconshreveable/mousetrap v1.1.0 // indirect
	github.com/mfridman/interpolate v0.0.2 // indirect
	github.com/sethvargo/go-retry v0.5.0 // indirect
	go.uber.org/multierr v1.11.0 // indirect
	golang.org/x/sys v0.49.0 // indirect
)
