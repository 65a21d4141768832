module leitstand

go 1.26.8

require (
	codeberg.org/go-pdf/fpdf v0.12.0
	git.sr.ht/~sbinet/gg v0.8.0
	github.com/charmbracelet/lipgloss v1.1.0
	github.com/charmbracelet/x/ansi v0.8.0
	github.com/charmbracelet/x/term v0.2.1
	github.com/chromedp/cdproto v0.0.0-20250724212937-08a3db8b4327
	github.com/chromedp/chromedp v0.14.2
	github.com/ebitengine/purego v0.11.3
	github.com/go-fonts/dejavu v0.3.2
	github.com/godbus/dbus/v5 v5.2.4
	github.com/golang/freetype v0.0.0-20170609003504-e2365dfdc4a0
	github.com/hashicorp/hcl/v2 v2.25.0
	github.com/muesli/termenv v0.16.0
	github.com/pmezard/go-difflib v1.0.0
	github.com/rogpeppe/go-internal v1.16.0
	github.com/santhosh-tekuri/jsonschema/v6 v6.0.3
	github.com/spf13/cobra v1.10.2
	github.com/stretchr/testify v1.12.1
	github.com/tailscale/hujson v0.0.0-20260727124030-b80ff77dac4f
	github.com/tdewolff/font v0.0.0-20250430140153-b654fd8acba3
	github.com/zclconf/go-cty v1.19.0
	golang.org/x/image v0.40.0
	golang.org/x/sys v0.49.0
	golang.org/x/text v0.44.0
	howett.net/plist v1.0.1
	mvdan.cc/sh/v3 v3.14.1
	pgregory.net/rapid v1.3.0
)

require (
	github.com/agext/levenshtein v1.2.1 // indirect
	github.com/andybalholm/brotli v1.1.1 // indirect
	github.com/apparentlymart/go-textseg/v15 v15.0.0 // indirect
	github.com/apparentlymart/go-textseg/v17 v17.0.1 // indirect
	github.com/aymanbagabas/go-osc52/v2 v2.0.1 // indirect
	github.com/charmbracelet/colorprofile v0.2.3-0.20250311203215-f60798e515dc // indirect
	github.com/charmbracelet/x/cellbuf v0.0.13-0.20250311204145-2c3ea96c31dd // indirect
	github.com/chromedp/sysutil v1.1.0 // indirect
	github.com/clipperhouse/uax29/v2 v2.7.0 // indirect
	github.com/go-json-experiment/json v0.0.0-20250725192818-e39067aee2d2 // indirect
	github.com/gobwas/httphead v0.1.0 // indirect
	github.com/gobwas/pool v0.2.1 // indirect
	github.com/gobwas/ws v1.4.0 // indirect
	github.com/google/go-cmp v0.7.0 // indirect
	github.com/inconshreveable/mousetrap v1.1.0 // indirect
	github.com/lucasb-eyer/go-colorful v1.4.1 // indirect
	github.com/mattn/go-isatty v0.0.20 // indirect
	github.com/mattn/go-runewidth v0.0.31 // indirect
	github.com/mitchellh/go-wordwrap v1.0.1 // indirect
	github.com/rivo/uniseg v0.4.7 // indirect
	github.com/spf13/pflag v1.0.9 // indirect
	github.com/tdewolff/parse/v2 v2.8.0 // indirect
	github.com/xo/terminfo v0.0.0-20220910002029-abceb7e1c41e // indirect
	go.yaml.in/yaml/v3 v3.0.5 // indirect
	golang.org/x/mod v0.42.0 // indirect
	golang.org/x/sync v0.25.0 // indirect
	golang.org/x/tools v0.52.0 // indirect
)
