package mapping_test

import (
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/mapping"
)

// Each kind of rule has a title for listings and says all its details.
func TestTitlesAndDetails(t *testing.T) {
	for _, c := range []struct{ rule, want string }{
		{`hands { order = ["Ctrl", "Alt", "Meta"] }`, "hands Ctrl, Alt, Meta | order Ctrl, Alt, Meta"},
		{"hands {\n primary = \"thumb\"\n sides = \"both\"\n}", "hands primary thumb | primary thumb | sides both"},
		{"hyper \"CapsLock\" {\n tap = \"Escape\"\n within = \"150ms\"\n as = \"Ctrl+Alt\"\n fallback = \"Tab\"\n}", "hyper CapsLock | tap Escape | within 150ms | as Ctrl+Alt | fallback Tab"},
		{"remap \"Space\" {\n tap = \"Space\"\n hold = \"ShiftLeft\"\n}", "remap Space = Space / ShiftLeft | tap " +
			"Space | hold ShiftLeft"},
		{`remap "ctrl+alt+c" { to = "ctrl+c" }`, "remap Ctrl+Alt+c = Ctrl+c | to Ctrl+c"},
		{`disable "insert" "Meta+h" {}`, "disable Insert Meta+h"},
		{"launch \"Hyper+g, t\" {\n run = [\"a\", \"b c\"]\n dir = \"/x\"\n confirm = true\n fallback = [\"F1\", " +
			"\"F2\"]\n}",
			`launch Hyper+g, t a | run "a" "b c" | dir /x | fallback F1; F2 | confirm true`},
		{`action "Meta+F3" { does = "workspace-3" }`, "action Meta+F3 workspace-3 | does workspace-3"},
		{"layer \"nav\" {\n toggle = \"F1\"\n leave = \"Escape\"\n others = \"off\"\n keys = {\n  KeyE = \"€\"\n  " +
			"KeyM = { does = \"maximize\" }\n  KeyN = { text = \"NHN\" }\n }\n}",
			`layer nav | toggle F1 | leave Escape | others off | KeyE € | KeyM maximize | KeyN "NHN"`},
		{"abbreviation \";x\" {\n text = \"y\"\n case = \"any\"\n}", `abbreviation ;x | end space | case any | text "y"`},
		{`macro "F8" { steps = [{ press = "Ctrl+s" }, { wait = "1s" }, { hold = "AltLeft" }, { release = "AltLeft" }, { text = "a b" }] }`,
			"macro F8 | steps press Ctrl+s | steps wait 1s | steps hold AltLeft | steps release AltLeft | steps " +
				"type a b"},
		{"let { sig = \"Süderhaff ${x}\" }\nmacro \"F8\" { steps = [{ press = \"Ctrl+s\" }, { text = let.sig }, " +
			"{ text = \"let.sig\" }] }",
			"macro F8 | steps press Ctrl+s | steps type Süderhaff ${x} | steps type let.sig"},
		// A modifier's name with its side is the key, wherever a position stands.
		{`swap "CtrlLeft" "altright" {}`, "swap ControlLeft AltRight"},
		{"hyper \"CtrlRight\" {\n fallback = \"CtrlLeft\"\n tap = \"CtrlLeft\"\n}", "hyper ControlRight | tap " +
			"ControlLeft | fallback ControlLeft"},
		{`disable "CtrlLeft" "AltLeft" "ShiftRight" {}`, "disable ControlLeft AltLeft ShiftRight"},
		{"layer \"a\" {\n while = \"CtrlRight\"\n keys = { CtrlLeft = \"ctrlright\" }\n}", "layer a | while " +
			"ControlRight | ControlLeft ControlRight"},
		{`remap "CtrlRight" { to = "CtrlLeft" }`, "remap ControlRight = ControlLeft | to ControlLeft"},
		// In the place of a chord, a modifier's key by either name is that key alone.
		{`launch "ControlRight" { run = "x" }`, `launch CtrlRight x | run "x"`},
		{`snippet "shiftright" { text = "x" }`, `snippet ShiftRight | text "x"`},
		{`macro "CtrlLeft" { steps = [{ press = "MetaLeft" }] }`, `macro CtrlLeft | steps press MetaLeft`},
		{"repeat {\n delay = \"220ms\"\n rate = 40\n accents = false\n never = \"CapsLock\"\n}", "repeat 220ms " +
			"40/s | delay 220ms | rate 40 | accents false | never CapsLock"},
		{"repeat { rate = 40 }", "repeat 40/s | rate 40"},
		{"repeat { delay = \"1s\" }", "repeat 1s | delay 1s"},
		{`native "macos" { settings = { "a b" = "c", d = 3 } }`, `native macos | a b "c" | d 3`},
		{"group \"g\" {\n swap \"F1\" \"F2\" {\n  why = \"because\"\n  need = \"exact\"\n  allow = " +
			"\"unavailable\"\n }\n}", `swap F1 F2 | need exact | allow unavailable | group g | why "because"`},
	} {
		m, diags := load(t, c.rule)
		require.Empty(t, said(diags), c.rule)
		require.Len(t, m.Rules, 1)
		assert.Equal(
			t, c.want, strings.Join(append([]string{mapping.Title(m.Rules[0])}, mapping.Details(m.Rules[0])...), " | "),
		)
	}
}

// The rules of a group may lie in a file beside the mapping.
func TestGroupFile(t *testing.T) {
	m, diags, err := mapping.Load(groupFiles, "m.hcl", "cfg")
	require.NoError(t, err)
	var got []string
	for _, r := range m.Rules {
		h := r.Head()
		got = append(got, h.Range.String()+" "+mapping.Title(r)+" "+h.Group+" "+h.Scope.String())
	}
	assert.Equal(
		t,
		[]string{
			"cfg/m.hcl:3:3 disable Insert g linux", "cfg/sub/more.hcl:1:1 disable Pause g linux",
			"cfg/sub/deep.hcl:1:1 disable Home g/deep linux",
		},
		got,
	)
	assert.Equal(t, "cfg/sub/wrong.hcl:2:1: a machine block cannot stand here\n    → only rules stand in on and "+
		"group blocks; move this out of it\n", said(diags))
}

var groupFiles = fstest.MapFS{
	"m.hcl": {Data: []byte(`on "linux" {
group "g" {
  disable "Insert" {}
  file = "sub/more.hcl"
}
}
group "w" { file = "sub/wrong.hcl" }
`)},
	"sub/more.hcl":  {Data: []byte("disable \"Pause\" {}\ngroup \"deep\" { file = \"deep.hcl\" }\n")},
	"sub/deep.hcl":  {Data: []byte("disable \"Home\" {}\n")},
	"sub/wrong.hcl": {Data: []byte("version = 1\nmachine \"office\" { system = \"linux\" }\n")},
}
