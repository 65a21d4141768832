package intent_test

import (
	"fmt"
	"strings"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/diag"
	"leitstand/core/intent"
	"leitstand/core/keys"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/reason"
)

const machines = `
machine "office" {
  system  = "linux"
  desktop = "plasma"
  layouts = ["de"]
  boards  = ["chart-table"]
}
machine "mess" {
  system  = "linux"
  desktop = "xfce"
  layouts = ["fr", "us"]
}
machine "vessel" {
  system  = "macos"
  layouts = ["ru"]
  boards  = ["chart-table", "wheelhouse"]
}
board "chart-table" { ids = ["usb:1209:0001"] }
board "wheelhouse" { ids = ["usb:1209:0003"] }
app "terminal" { linux = "xterm" }
`

// noMeta carries everything but chords with Meta, a tap told from a hold, and a
// Hyper where the machine has none.
type noMeta struct{}

func (noMeta) Carries(m *intent.Machine, b behaviour.Binding) bool {
	switch b.Effect.Kind {
	case behaviour.TapHold:
		return false
	case behaviour.Modifier:
		return m.Hyper != machine.NoHyper
	}
	return !b.Chord.Mods.Has(keys.Meta)
}

func resolve(t *testing.T, machine, rules string) (*intent.Intent, diag.List) {
	t.Helper()
	mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(machines + rules)}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	m, ok := mp.Machine(machine)
	require.True(t, ok)
	return intent.Resolve(mp, m, noMeta{})
}

// said is the resolved list, or what is wrong.
func said(in *intent.Intent, diags diag.List) string {
	var lines []string
	for _, e := range in.Entries {
		line := e.Binding.String()
		if e.Wish != nil {
			line += " instead of " + e.Instead()
		}
		if e.Lost {
			line += " (lost)"
		}
		for _, why := range []reason.List{e.Lack().Missing, e.Lack().Less} {
			if why != nil {
				line += " (" + why.String() + ")"
			}
		}
		lines = append(lines, line)
	}
	for _, b := range in.Beaten {
		lines = append(lines, fmt.Sprintf("%s: %s beats %s", b.Press, mapping.Title(b.Winner), mapping.Title(b.Loser)))
	}
	for _, d := range diags {
		lines = append(lines, d.Summary+" → "+d.Advice)
	}
	return strings.Join(lines, "\n")
}

func TestResolve(t *testing.T) {
	for _, c := range []struct{ machine, rules, want string }{
		{"office", `swap "AltLeft" "MetaLeft" {}`, "AltLeft acts as MetaLeft\nMetaLeft acts as AltLeft"},
		{"office", `disable "Insert" "Pause" {}`, "Insert does nothing\nPause does nothing"},
		{"office", "disable \"Insert\" {\n enabled = false\n}", ""},
		{"office", `disable "Insert" { on = "macos" }`, ""},
		{"vessel", "on \"macos\" {\n disable \"Insert\" { on = [\"chart-table\"] }\n}", "Insert on chart-table " +
			"does nothing"},
		{"mess", `disable "Insert" { on = "chart-table" }`, ""},
		{"vessel", `disable "Insert" { on = ["chart-table", "wheelhouse"] }`, "Insert on chart-table does " +
			"nothing\nInsert on wheelhouse does nothing"},

		// Hyper, as each machine can have it.
		{"mess", `hyper "CapsLock" {}`, "CapsLock acts as Hyper"},
		{"office", `hyper "CapsLock" {}`, "CapsLock acts as Ctrl+Alt+Shift+Meta"},
		{"vessel", `hyper "CapsLock" { fallback = "Escape" }`, "CapsLock acts as Escape instead of Hyper"},
		{"vessel", `hyper "CapsLock" {}`, "CapsLock acts as Hyper"},
		{"vessel", "hyper \"CapsLock\" {\n fallback = \"ControlLeft\"\n instead = \"Ctrl+Alt\"\n}\nlaunch " +
			"\"Hyper+s\" { run = \"x\" }\nlaunch \"Hyper+Shift+g, Hyper+x\" {\n run = \"y\"\n fallback = " +
			"\"Meta+F1\"\n}\nlaunch \"Hyper+h\" {\n run = \"z\"\n fallback = \"F1\"\n}\nremap \"Hyper+v\" { to = " +
			"\"Ctrl+v\" }",
			"CapsLock acts as ControlLeft instead of Hyper\nCtrl+Alt+KeyS runs x instead of " +
				"Hyper+KeyS\nCtrl+Alt+Shift+KeyG, Ctrl+Alt+KeyX runs y instead of Shift+Hyper+KeyG, Hyper+KeyX\nF1 " +
				"runs z instead of Hyper+KeyH\nCtrl+Alt+KeyV gives Ctrl+KeyV instead of Hyper+KeyV"},
		{"office", "hyper \"CapsLock\" {\n instead = \"Ctrl+Alt\"\n as = { macos = \"Ctrl\", other = " +
			"\"Ctrl+Shift\" }\n}\nlaunch \"Hyper+s\" { run = \"x\" }", "CapsLock acts as " +
			"Ctrl+Shift\nCtrl+Shift+KeyS runs x"},
		{"office", "hyper \"CapsLock\" { instead = \"Ctrl+Alt\" }\nhyper \"Insert\" { on = \"linux\" }", "CapsLock acts as Ctrl+Alt+Shift+Meta\nInsert acts as Ctrl+Alt+Shift+Meta\ntwo keys are Hyper, and each stands for other modifiers → let both stand for the same"},

		// Chords.
		{"office", `launch "Primary+z" { run = "x" }`, "Ctrl+KeyY runs x"},
		{"vessel", `launch "Primary+z" { run = "x" }`, "Meta+KeyZ runs x"},
		{"mess", `launch "Ctrl+a" { run = "x" }`, "Ctrl+KeyQ runs x"},
		{"mess", `launch "Ctrl+1" { run = "x" }`, "Ctrl+Digit1 runs x"},
		{"office", `launch "Ctrl++" { run = "x" }`, "Ctrl+BracketRight runs x"},
		{"office", `launch "Ctrl+?" { run = "x" }`, "Ctrl+? runs x ('?' needs Shift under layout de)\n" + `'?' needs Shift under layout de → if that is meant, write "Ctrl+Shift+ß"`},
		{"office", `launch "Ctrl+@" { run = "x" }`, "Ctrl+@ runs x ('@' needs AltGr under layout de)\n" + `'@' needs AltGr under layout de → if that is meant, write "Ctrl+AltGr+q"`},
		{"office", `launch "Ctrl+é" { run = "x" }`, "Ctrl+é runs x (no key types 'é' under layout de)\nno key types " +
			"'é' under layout de → name the key by its code, which `leitstand keys` lists"},
		{"office", `launch "Ctrl+Space" { run = "x" }`, "Ctrl+Space runs x"},

		// Fallbacks.
		{"office", "launch \"Meta+t\" {\n run = \"x\"\n fallback = [\"Meta+F1\", \"Ctrl+F1\"]\n}", "Ctrl+F1 runs x " +
			"instead of Meta+KeyT"},
		{"office", "launch \"Ctrl+t\" {\n run = \"x\"\n fallback = \"Ctrl+F1\"\n}", "Ctrl+KeyT runs x"},
		{"office", "launch \"Meta+t\" {\n run = \"x\"\n fallback = \"Meta+F1\"\n}", "Meta+KeyT runs x"},

		{"office", "hyper \"CapsLock\" {}\nlaunch \"Hyper+t\" {\n run = \"x\"\n fallback = \"Ctrl+F1\"\n}", "CapsLock acts as Ctrl+Alt+Shift+Meta\nCtrl+F1 runs x instead of Ctrl+Alt+Shift+Meta+KeyT"},
		{"mess", "launch \"Hyper+t\" {\n run = \"x\"\n fallback = \"Ctrl+F1\"\n}", "Ctrl+F1 runs x instead of " +
			"Hyper+KeyT"},
		{"mess", `launch "Hyper+t" { run = "x" }`, "Hyper+KeyT runs x"},

		// Hyper with a tap, and for other modifiers.
		{"mess", "hyper \"CapsLock\" { tap = \"Escape\" }", "CapsLock acts as Hyper instead of tap and hold (lost)"},
		{"vessel", "hyper \"CapsLock\" {\n tap = \"Escape\"\n fallback = \"Tab\"\n}", "CapsLock acts as Tab " +
			"instead of tap and hold"},
		{"mess", "hyper \"CapsLock\" { as = \"Ctrl+Alt\" }\nlaunch \"Hyper+t\" { run = \"x\" }", "CapsLock acts as " +
			"Ctrl+Alt\nCtrl+Alt+KeyT runs x"},
		{"mess", "hyper \"CapsLock\" { as = \"Ctrl+Alt\" }\nhyper \"Tab\" {}", "CapsLock acts as Ctrl+Alt\nTab " +
			"acts as Ctrl+Alt\ntwo keys are Hyper, and each stands for other modifiers → let both stand for the same"},

		// Remaps of every kind.
		{"office", `remap "F7" { to = "Ctrl+z" }`, "F7 gives Ctrl+KeyY"},
		{"office", `remap "Ctrl+Alt+c" { to = "Ctrl+c" }`, "Ctrl+Alt+KeyC gives Ctrl+KeyC"},
		{"office", `remap "CapsLock" { to = "z" }`, "CapsLock acts as KeyY"},
		{"office", `remap "CapsLock" { to = "€" }`, `CapsLock types "€"`},
		{"office", "remap \"CapsLock\" {\n tap = \"Escape\"\n hold = \"ControlLeft\"\n within = \"180ms\"\n}", "CapsLock tapped within 180ms acts as Escape, held acts as ControlLeft"},
		{"office", "remap \"CapsLock\" {\n tap = \"Escape\"\n hold = \"ControlLeft\"\n fallback = \"ControlLeft\"\n}", "CapsLock acts as ControlLeft instead of tap and hold"},
		{"office", `remap "MouseBack" { to = "Ctrl+w" }`, "MouseBack gives Ctrl+KeyW"},
		{"office", `remap "Ctrl+k, c" { to = "Ctrl+Slash" }`, "Ctrl+KeyK, KeyC gives Ctrl+Slash"},
		{"office", `disable "Meta+h" "Insert" {}`, "Meta+KeyH does nothing\nInsert does nothing"},
		{"office", `launch "Meta" { run = "x" }`, "Meta alone (held, it stays Meta) runs x"},

		// Hands.
		{"office", `hands { order = ["Ctrl", "Alt", "Meta"] }`, "AltLeft acts as MetaLeft\nMetaLeft acts as AltLeft"},
		{"office", `hands { primary = "thumb" }`, "AltLeft acts as ControlLeft\nControlLeft acts as AltLeft"},
		{"office", "hands {\n primary = \"thumb\"\n sides = \"both\"\n}", "AltLeft acts as ControlLeft\nAltRight " +
			"acts as ControlRight\nControlLeft acts as AltLeft\nControlRight acts as AltRight"},
		{"vessel", `hands { order = ["Ctrl", "Alt", "Meta"] }`, "AltLeft on chart-table acts as MetaLeft\nMetaLeft " +
			"on chart-table acts as AltLeft\n" +
			"AltLeft on wheelhouse acts as MetaLeft\nMetaLeft on wheelhouse acts as AltLeft"},
		{"vessel", "hands {\n primary = \"corner\"\n on = \"chart-table\"\n}", "ControlLeft on chart-table acts as " +
			"MetaLeft\nMetaLeft on chart-table acts as ControlLeft"},

		// Layers.
		{"office", "layer \"nav\" {\n while = \"AltRight\"\n tap = \"Escape\"\n keys = {\n  KeyH = \"ArrowLeft\"\n  " +
			"KeyE = \"€\"\n  KeyD = \"Ctrl+d\"\n  KeyT = { does = \"tile-left\" }\n }\n}",
			"AltRight holds layer nav instead of tap and hold (lost)\nKeyH in layer nav acts as ArrowLeft\nKeyE in " +
				"layer nav types \"€\"\n" +
				"KeyD in layer nav gives Ctrl+KeyD\nKeyT in layer nav does tile-left"},
		{"office", "layer \"nav\" {\n toggle = \"ScrollLock\"\n leave = \"Escape\"\n keys = { KeyH = \"ArrowLeft\" }\n}",
			"ScrollLock switches to layer nav\nEscape in layer nav leaves layer nav\nScrollLock in layer nav " +
				"leaves layer nav\nKeyH in layer nav acts as ArrowLeft"},
		{"office", "layer \"a\" {\n while = \"F1\"\n keys = { KeyH = \"F2\" }\n}\nremap \"KeyH\" { to = \"F3\" }", "F1 holds layer a\nKeyH in layer a acts as F2\nKeyH acts as F3"},

		// Texts, macros, settings, actions.
		{"office", `snippet "F7" { text = "NHN -5.00 m" }`, `F7 types "NHN -5.00 m"`},
		{"office", "abbreviation \";nhn\" {\n text = \"x\"\n}", `";nhn" typed and a blank types "x"`},
		{"office", "abbreviation \";nhn\" {\n end = \"any\"\n case = \"follow\"\n text = \"x\"\n}", `";nhn" typed and any other character, its case carried over types "x"`},
		{"office", `macro "F8" { steps = [{ press = "Ctrl+z" }, { hold = "ShiftLeft" }, { wait = "50ms" }, { release = "ShiftLeft" }, { text = "a b" }] }`,
			`F8 plays press Ctrl+KeyY, hold ShiftLeft, wait 50ms, release ShiftLeft, type "a b"`},
		{"office", "repeat {\n delay = \"220ms\"\n rate = 40\n accents = false\n never = \"CapsLock\"\n}",
			"repeat delay is 220ms\nrepeat rate is 40/s\naccents of a held letter is false\nrepeat of CapsLock " +
				"is never"},
		{"office", "native \"plasma\" { settings = { \"kwinrc Windows Placement\" = \"Smart\" } }\nnative " +
			"\"macos\" { settings = { \"a b\" = 3 } }", "kwinrc Windows Placement is Smart"},
		{"office", "modifier \"Desk\" {\n macos = \"Ctrl+Alt\"\n other = \"Meta\"\n}\naction \"Desk+ArrowLeft\" { " +
			"does = \"tile-left\" }", "Meta+ArrowLeft does tile-left"},
		{"vessel", "modifier \"Desk\" {\n macos = \"Ctrl+Alt\"\n other = \"Meta\"\n}\naction \"Desk+ArrowLeft\" { " +
			"does = \"tile-left\" }", "Ctrl+Alt+ArrowLeft does tile-left"},
		{"vessel", "modifier \"Desk\" { linux = \"Meta\" }\nmacro \"Desk+ArrowLeft\" { steps = [{ text = \"x\" }] }", `modifier "Desk" stands for nothing on macos → add macos = … or other = … to it`},
		{"office", "let {\n chord = \"Ctrl+Alt+g\"\n words = [\"a\", \"b c\"]\n}\nkeys = { (let.chord) = { run = " +
			"let.words } }", `Ctrl+Alt+KeyG runs a "b c"`},
		{"office", "launch \"F9\" {\n app = \"terminal\"\n confirm = true\n in_front = \"terminal\"\n}\nlaunch " +
			"\"F9\" { run = \"y\" }", "F9 in terminal runs xterm, after asking\nF9 runs y"},
		{"office", "launch \"Ctrl+k\" { run = \"x\" }\nlaunch \"Ctrl+k, t\" { run = \"y\" }",
			"Ctrl+KeyK begins Ctrl+KeyK, KeyT → what waits for the next stroke cannot act on the first: begin one " +
				"of them by another chord"},
		{"office", "group \"g\" {\n enabled = false\n disable \"Insert\" {}\n}\ngroup \"h\" {\n on \"linux\" {\n  " +
			"disable \"Pause\" {}\n }\n}", "Pause does nothing"},

		// Programs.
		{"office", `launch "Ctrl+t" { app = "terminal" }`, "Ctrl+KeyT runs xterm"},
		{"vessel", `launch "Ctrl+t" { app = "terminal" }`, `Ctrl+KeyT starts nothing (app "terminal" names no program for macos)`},
		{"office", "launch \"Ctrl+t\" {\n open = \"https://tides.example\"\n dir = \"/log\"\n}", "Ctrl+KeyT opens " +
			"https://tides.example in /log"},

		// Rules that meet.
		{"vessel", "remap \"CapsLock\" { to = \"Escape\" }\non \"macos\" {\n remap \"CapsLock\" { to = \"Tab\" }\n}",
			"CapsLock acts as Tab\nCapsLock: remap CapsLock = Tab beats remap CapsLock = Escape"},
		{"vessel", "remap \"CapsLock\" { to = \"Escape\" }\nremap \"CapsLock\" {\n to = \"Tab\"\n on = " +
			"\"chart-table\"\n}",
			"CapsLock acts as Escape\nCapsLock on chart-table acts as Tab\nCapsLock: remap CapsLock = Tab beats " +
				"remap CapsLock = Escape"},
		// On two boards the narrower rule wins twice, and is told once.
		{"vessel", "remap \"CapsLock\" { to = \"Escape\" }\nremap \"CapsLock\" {\n to = \"Tab\"\n on = " +
			"[\"chart-table\", \"wheelhouse\"]\n}",
			"CapsLock acts as Escape\nCapsLock on chart-table acts as Tab\nCapsLock on wheelhouse acts as " +
				"Tab\nCapsLock: remap CapsLock = Tab beats remap CapsLock = Escape"},
		{"office", "remap \"CapsLock\" { to = \"Escape\" }\ndisable \"CapsLock\" {}",
			"two rules claim CapsLock → take one of them out, or scope one more narrowly, inside the other's scope"},
		{"vessel", "remap \"CapsLock\" {\n to = \"Escape\"\n on = \"macos\"\n}\nremap \"CapsLock\" {\n to = " +
			"\"Tab\"\n on = \"chart-table\"\n}",
			"CapsLock acts as Escape\ntwo rules claim CapsLock → neither scope is part of the other; a third rule, " +
				"nested in both scopes, says which is meant where both hold"},
		{"mess", "remap \"CapsLock\" {\n to = \"Escape\"\n on = \"linux\"\n}\nremap \"CapsLock\" {\n to = " +
			"\"Tab\"\n on = \"chart-table\"\n}", "CapsLock acts as Escape"},
		{"office", "launch \"Ctrl+t\" { run = \"x\" }\nlaunch \"CtrlLeft+t\" { run = \"y\" }",
			"two rules claim Ctrl+KeyT → Ctrl+KeyT is for either side: say CtrlRight+KeyT in it, and the two " +
				"are apart"},
		{"office", "launch \"Shift+CtrlRight+F9\" { run = \"x\" }\nlaunch \"Ctrl+Shift+F9\" { run = \"y\" }",
			"two rules claim CtrlRight+Shift+F9 → Ctrl+Shift+F9 is for either side: say CtrlLeft+Shift+F9 in it, " +
				"and the two are apart"},
		{"office", "launch \"Ctrl+k, t\" { run = \"x\" }\nlaunch \"Ctrl+k\" { run = \"y\" }",
			"Ctrl+KeyK begins Ctrl+KeyK, KeyT → what waits for the next stroke cannot act on the first: begin one " +
				"of them by another chord"},
		{"office", "modifier \"Go\" { other = \"Hyper\" }\nhyper \"CapsLock\" {}\nlaunch \"Go+t\" { run = \"x\" " +
			"}\nlaunch \"Go+Shift+t\" { run = \"y\" }",
			"CapsLock acts as Ctrl+Alt+Shift+Meta\ntwo rules claim Ctrl+Alt+Shift+Meta+KeyT: Hyper holds " +
				"Ctrl+Alt+Shift+Meta on office → modifiers that Hyper holds make no difference there: use another " +
				"key for one of them, or let Hyper stand for fewer with as"},
		{"office", "launch \"CtrlRight+t\" { run = \"x\" }\nlaunch \"CtrlLeft+t\" { run = \"y\" }", "CtrlRight+KeyT runs x\nCtrlLeft+KeyT runs y"},
		{"office", "launch \"Ctrl+y\" { run = \"x\" }\nlaunch \"Ctrl+KeyZ\" { run = \"y\" }",
			"two rules claim Ctrl+KeyZ → take one of them out, or scope one more narrowly, inside the other's scope"},
		{"office", "disable \"F7\" {}\nlaunch \"F7\" { run = \"x\" }", "F7 does nothing\nF7 runs x"},
	} {
		assert.Equal(t, c.want, said(resolve(t, c.machine, c.rules)), "%s on %s", c.rules, c.machine)
	}
}

// A draw names both lines.
func TestDrawNamesBothPlaces(t *testing.T) {
	_, diags := resolve(t, "office", "remap \"CapsLock\" { to = \"Escape\" }\nswap \"CapsLock\" \"Tab\" {}")
	require.Len(t, diags, 1)
	lines := strings.Count(machines, "\n")
	assert.EqualValues(t, lines+2, diags[0].Range.Start.Line)
	assert.Equal(t, `swap "CapsLock" "Tab" {}`, diags[0].Line)
	assert.EqualValues(t, lines+1, diags[0].Related[0].Range.Start.Line)
	assert.Equal(t, []string{"office"}, diags[0].Machines)
}

// Letters and digits name a key on every layout, with any modifiers.
func TestLettersAndDigitsAreEverywhere(t *testing.T) {
	var rules strings.Builder
	for c := '0'; c <= 'z'; c++ {
		if c <= '9' || c >= 'a' {
			fmt.Fprintf(&rules, "launch \"Ctrl+Shift+%c\" { run = \"x\" }\n", c)
		}
	}
	for _, layout := range keys.LayoutNames() {
		mp, diags, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: fmt.Appendf(nil, "machine \"m\" {\n  system  = "+
			"\"linux\"\n  layouts = [%q]\n}\n%s", layout, &rules)}}, "m.hcl", "")
		require.NoError(t, err)
		require.Empty(t, diags)
		_, diags = intent.Resolve(mp, mp.Machines[0], nil)
		assert.Empty(t, diags, layout)
	}
}

// What a machine's layout lacks is a finding of that machine, which it or the rule may allow;
// the rest of the rule is done.
func TestWhatALayoutLacks(t *testing.T) {
	for rules, want := range map[string]string{
		"launch \"Ctrl+é\" {\n run = \"x\"\n allow = \"no-such-character\"\n}": "Ctrl+é runs x (no key types 'é' " +
			"under layout de)",
		"launch \"Ctrl+é\" {\n run = \"x\"\n fallback = [\"Ctrl+~\", \"F9\"]\n}": "F9 runs x instead of Ctrl+é\nno " +
			"key types 'é' under layout de → name the key by its code, which `leitstand keys` lists\n" +
			"'~' needs AltGr under layout de → if that is meant, write \"Ctrl+AltGr++\"",
		"disable \"Ctrl+é\" \"Ctrl+x\" { allow = \"no-such-character\" }":                      "Ctrl+é does nothing (no key types 'é' under layout de)\nCtrl+KeyX does nothing",
		"remap \"F7\" {\n to = \"Ctrl+é\"\n allow = \"no-such-character\"\n}":                  "F7 remap F7 = Ctrl+é (no key types 'é' under layout de)",
		"macro \"F7\" {\n steps = [{ press = \"Ctrl+é\" }]\n allow = \"no-such-character\"\n}": "F7 macro F7 (no key types 'é' under layout de)",
		"layer \"a\" {\n while = \"F1\"\n allow = \"no-such-character\"\n keys = {\n  KeyA = \"Ctrl+é\"\n  KeyB = " +
			"\"F2\"\n }\n}": "F1 holds layer a\nKeyA in layer a Ctrl+é (no key types 'é' under layout de)\nKeyB in " +
			"layer a acts as F2",
	} {
		in, diags := resolve(t, "office", rules)
		assert.Equal(t, want, said(in, diags), rules)
		for _, d := range diags {
			assert.Equal(t, diag.Warning, d.Severity)
		}
	}
}

// A board that a rule leaves out keeps its keys, or has those of another rule; only keys can
// be left as they are on one board.
func TestBoardsLeftOut(t *testing.T) {
	for _, c := range []struct{ machine, rules, want string }{
		{"office", `remap "CapsLock" {
  to     = "Escape"
  except = "chart-table"
}`, "CapsLock acts as Escape; CapsLock on chart-table acts as CapsLock"},
		{"mess", `remap "CapsLock" {
  to     = "Escape"
  except = "chart-table"
}`, "CapsLock acts as Escape"},
		{"vessel", `remap "CapsLock" { to = "Escape" }
remap "CapsLock" {
  to     = "Tab"
  on     = "macos"
  except = "wheelhouse"
}`, "CapsLock on wheelhouse acts as Escape; CapsLock acts as Tab"},
		{"vessel", `remap "CapsLock" {
  to     = "Escape"
  except = "wheelhouse"
}
remap "CapsLock" {
  to = "F1"
  on = "wheelhouse"
}`, "CapsLock acts as Escape; CapsLock on wheelhouse acts as F1"},
		{"vessel", `remap "CapsLock" {
  to     = "Escape"
  except = ["wheelhouse", "chart-table"]
}`, "CapsLock acts as Escape; CapsLock on chart-table acts as CapsLock; CapsLock on wheelhouse acts as CapsLock"},
		{"vessel", `swap "AltLeft" "MetaLeft" {
  on     = ["wheelhouse", "chart-table"]
  except = "wheelhouse"
}`, "AltLeft on chart-table acts as MetaLeft; MetaLeft on chart-table acts as AltLeft"},
		{"vessel", `launch "Ctrl+F1" {
  run    = "x"
  except = "wheelhouse"
}`, "Ctrl+F1 runs x"},
	} {
		in, diags := resolve(t, c.machine, c.rules)
		require.Empty(t, diags, c.rules)
		var got []string
		for _, e := range in.Entries {
			got = append(got, e.Binding.String())
			assert.Equal(t, e.Binding.Level == behaviour.Hotkey, len(e.Lack().Apart) > 0, e.Binding.String())
		}
		assert.Equal(t, c.want, strings.Join(got, "; "), c.rules)
	}
}

// A fallback that is the same chord on a machine, since Hyper stands for that there, is tried once.
func TestFallbackThatIsTheSame(t *testing.T) {
	rules := func(fallback string) string {
		return "hyper \"CapsLock\" { as = \"Ctrl+Meta\" }\n" +
			"launch \"Hyper+t\" {\n  app = \"terminal\"\n  fallback = [\"" + fallback + "\"]\n}\n"
	}
	for fallback, tried := range map[string]int{"Ctrl+Meta+t": 0, "Ctrl+Shift+Meta+t": 1} {
		in, diags := resolve(t, "mess", rules(fallback))
		require.Empty(t, diags)
		require.Len(t, in.Entries, 2)
		assert.Len(t, in.Entries[1].Lack().Tried, tried, fallback)
	}
}

// Of many rules for one press, or for many, each is compared with few: twice as many rules are about twice as much work.
func TestRulesAreComparedWithFew(t *testing.T) {
	for about, rule := range map[string]func(i int) string{
		"one key":               func(int) string { return "remap \"CapsLock\" { to = \"Escape\" }\n" },
		"one key, in one scope": func(int) string { return "on \"linux\" {\n  remap \"CapsLock\" { to = \"Escape\" }\n}\n" },
		"one chord":             func(int) string { return "launch \"Meta+g\" { run = \"x\" }\n" },
		"strokes behind one chord": func(i int) string {
			return fmt.Sprintf("launch \"Meta+g, %c, %c\" { run = \"x\" }\n", 'a'+i%26, 'a'+i/26%26)
		},
		"layers by one key": func(i int) string {
			return fmt.Sprintf("layer \"l%d\" {\n  while = \"F1\"\n  keys = {\n    KeyH = \"ArrowLeft\"\n  }\n}\n", i)
		},
		"one abbreviation": func(int) string { return "abbreviation \";x\" {\n  text = \"x\"\n}\n" },
		"chords of two modifier keys": func(i int) string {
			return fmt.Sprintf("launch \"%s+F1\" { run = \"x\" }\n", []string{"CtrlLeft", "Ctrl"}[i%2])
		},
	} {
		compared := func(n int) int {
			text := "machine \"gauge\" {\n  system  = \"linux\"\n  desktop = \"i3\"\n}\n"
			for i := range n {
				text += rule(i)
			}
			mp, _, err := mapping.Load(fstest.MapFS{"m.hcl": {Data: []byte(text)}}, "m.hcl", "")
			require.NoError(t, err)
			in, _ := intent.Resolve(mp, mp.Machines[0], noMeta{})
			return in.Compared
		}
		assert.LessOrEqual(t, compared(2000), 5*compared(500)+1000, about)
	}
}
