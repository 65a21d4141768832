package land_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/compile"
	"leitstand/core/mechanism"
	"leitstand/core/reason"
)

// A layout is for every user of the machine if all that lands in it is.
func TestLayoutForEveryone(t *testing.T) {
	const rules = `
machine "office" {
  system  = "linux"
  desktop = "sway"
  rights  = %q
}
hyper "CapsLock" { everyone = true }
swap "AltRight" "ContextMenu" { everyone = %v }
`
	for _, c := range []struct {
		rights string
		swap   bool
		goes   string
		words  string
	}{
		{"admin", true, "/etc/xkb/symbols/leitstand", ""},
		{"user", true, "~/.config/xkb/symbols/leitstand", "for this user only"},
		{"user", false, "~/.config/xkb/symbols/leitstand", "for this user only"},
	} {
		builds, diags := build(t, fmt.Sprintf(rules, c.rights, c.swap))
		require.Empty(t, diags)
		var goes []string
		for _, f := range builds[0].Files() {
			goes = append(goes, f.Goes)
		}
		assert.Contains(t, goes, c.goes)
		for _, l := range builds[0].Landings {
			if l.Rule.Head().Everyone && l.Binding.Effect.Kind == behaviour.Modifier {
				assert.Equal(t, c.words, l.Offer.Why.String())
			}
		}
	}
}

// Of two abbreviations that begin alike, the longer one can never be typed behind Compose.
func TestAbbreviationsBeginApart(t *testing.T) {
	builds, diags := build(t, `
machine "office" {
  system  = "linux"
  options = ["compose:menu"]
}
abbreviation ";nhn" {
  text         = "NHN -5.00 m"
}
abbreviation ";nhnw" {
  text         = "NHN, wheelhouse"
}
`)
	require.Len(t, diags, 1)
	assert.Equal(
		t,
		`";nhnw" typed and a blank is unavailable: ";nhnw" begins with ";nhn", which is done before it`,
		diags[0].Summary,
	)
	assert.Equal(t, "compose", builds[0].Landings[0].Mechanism.Facts().Name)
	assert.Nil(t, builds[0].Landings[1].Mechanism)
}

// A rule for one board lands in the driver's stage with rights, and in a layout of the board
// without; what the driver would change for every board it leaves alone where a board's
// layout must see the key.
func TestBoards(t *testing.T) {
	builds, _ := build(t, `
machine "pier" {
  system  = "linux"
  desktop = "sway"
  boards  = ["chart-table"]
}
machine "gauge" {
  system  = "linux"
  desktop = "i3"
  boards  = ["chart-table"]
  rights  = "user"
}
machine "mole" {
  system  = "linux"
  desktop = "gnome"
  boards  = ["chart-table"]
  rights  = "user"
}
board "chart-table" { ids = ["usb:1209:0001"] }
remap "CapsLock" { to = "Escape" }
remap "ScrollLock" { to = "F13" }
on "chart-table" {
  hyper "CapsLock" {}
  disable "Insert" {}
}`)
	got := places(builds)
	assert.Equal(t, []string{
		"pier CapsLock xkb", "pier ScrollLock hwdb", "pier CapsLock on chart-table xkb",
		"pier Insert on chart-table hwdb",
		"gauge CapsLock xkb", "gauge ScrollLock xkb", "gauge CapsLock on chart-table xkb",
		"gauge Insert on chart-table xkb",
		"mole CapsLock xkb", "mole ScrollLock xkb", "mole CapsLock on chart-table nothing",
		"mole Insert on chart-table nothing",
	}, got)
}

// places says where the presses of machines landed.
func places(builds []*compile.Build) (got []string) {
	for _, b := range builds {
		for _, l := range b.Landings {
			at := "nothing"
			if l.Mechanism != nil {
				at = l.Mechanism.Facts().Name
			}
			got = append(got, b.Machine.Name+" "+l.Binding.Press()+" "+at)
		}
	}
	return got
}

// On a Mac a held layer is the state of the Option keys, by whatever carries its keys, unless their chord has
// a meaning of its own or the key is another before; and the panel Modifier Keys has the modifiers of single
// boards, unless the HID mapping is in between.
func TestLayersAndModifiersOnMac(t *testing.T) {
	builds, _ := build(t, `
machine "pier" {
  system  = "macos"
  layouts = ["de"]
  boards  = ["chart-table", "wheelhouse"]
}
board "chart-table" { ids = ["usb:1209:0001"] }
board "wheelhouse" { ids = ["usb:1209:0003"] }
remap "ScrollLock" { to = "MetaLeft" }
remap "KeyJ" { to = "KeyK" }
swap "AltLeft" "MetaLeft" { on = "chart-table" }
swap "AltLeft" "CapsLock" { on = "wheelhouse" }
launch "Alt+n" { run = "tidegauge" }
group "layers" {
  allow = "unavailable"
  layer "arrows" {
    while = "ControlRight"
    keys = {
      KeyH = "ArrowLeft"
      KeyJ = "ArrowDown"
      KeyE = "€"
      KeyG = "←"
      KeyN = "→"
    }
  }
  layer "numbers" {
    while = "F13"
    keys = { KeyU = "1" }
  }
}`)
	assert.Equal(t, []string{
		"pier ScrollLock hidutil", "pier KeyJ hidutil",
		"pier AltLeft on chart-table hidutil", "pier MetaLeft on chart-table hidutil",
		"pier AltLeft on wheelhouse modifierpanel", "pier CapsLock on wheelhouse modifierpanel",
		"pier Alt+KeyN services", "pier ControlRight hidutil", "pier KeyH in layer arrows textkeys",
		"pier KeyJ in layer arrows nothing", "pier KeyE in layer arrows stock", "pier KeyG in layer arrows keylayout",
		"pier KeyN in layer arrows nothing", "pier F13 nothing", "pier KeyU in layer numbers nothing",
	}, places(builds))
}

// Layers get the groups that the layouts leave, the first ones; one that finds none takes nothing from the others.
func TestFirstLayersFit(t *testing.T) {
	for layouts, fit := range map[string]int{`"us"`: 3, `"us", "de"`: 1, `"us", "de", "fr"`: 0} {
		text := "machine \"office\" {\n  system = \"linux\"\n  desktop = \"gnome\"\n  layouts = [" + layouts + "]\n}\n"
		for i, hold := range []string{"CapsLock", "Insert", "F9", "F10", "F11"} {
			text += fmt.Sprintf(
				"layer \"%c\" {\n  while = %q\n  keys = { Key%c = \"ArrowUp\" }\n}\n", 'a'+i, hold, 'A'+i)
		}
		builds, _ := build(t, text)
		for _, l := range builds[0].Landings {
			layer := l.Binding.Layer
			if layer == "" {
				layer = l.Binding.Effect.Layer
			}
			assert.Equal(t, int(layer[0]-'a') < fit, l.Offer.Verdict >= mechanism.Limited, "%s %s", layouts, l.Binding.Press())
		}
	}
}

// Where a desktop has one chord for an action, a second one is told, not lost.
func TestOneChordEach(t *testing.T) {
	builds, _ := build(t, `
machine "mess" {
  system  = "linux"
  desktop = "mate"
}
action "Meta+Shift+u" { does = "maximize" }
action "Meta+Shift+v" { does = "maximize" }`)
	require.Len(t, builds[0].Landings, 2)
	assert.Equal(t, mechanism.Limited, builds[0].Landings[0].Offer.Verdict)
	assert.Equal(
		t, mechanism.Offer{Why: reason.OneChordTaken.Of("maximize", "Shift+Meta+KeyU")}, builds[0].Landings[1].Offer,
	)
}

// A layout of Windows has an accent for each beginning of an abbreviation, and so many of them only.
func TestAbbreviationsHaveRoom(t *testing.T) {
	text := "machine \"lab\" {\n  system = \"windows\"\n  layout_library = true\n}\nremap \"Backquote\" { to = \"Compose\" }\n"
	const letters = "abcdefghijklmnopqrstuvwxyz0123456789"
	for _, first := range letters {
		for _, second := range letters {
			text += fmt.Sprintf("abbreviation \"%c%cx\" {\n  text = \"é\"\n}\n", first, second)
		}
	}
	builds, _ := build(t, text)
	had, told := map[string]bool{}, 0
	for _, l := range builds[0].Landings {
		switch {
		case l.Binding.Word == "":
		case l.Mechanism == nil:
			told++
			assert.Equal(t, "there is room for 1024 beginnings of abbreviations, which others have", l.Why().String())
		default:
			had[l.Binding.Word[:1]], had[l.Binding.Word[:2]] = true, true
		}
	}
	assert.Len(t, had, 1023, "and none yet typed")
	assert.Positive(t, told)
}
