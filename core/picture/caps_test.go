package picture_test

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/compile"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/picture"
	"leitstand/core/station"
)

// board is the one of a mapping for one machine under X11.
func board(t testing.TB, rules string) *picture.Board {
	t.Helper()
	text := "machine \"gauge\" {\n  system  = \"linux\"\n  desktop = \"i3\"\n  layouts = [\"de\"]\n}\n" + rules
	mp, diags, err := mapping.Load(mechanism.Folder{{Path: "m.hcl", Data: []byte(text)}}, "m.hcl", "")
	require.NoError(t, err)
	require.Empty(t, diags)
	builds, _, err := compile.All(mp, nil, nil)
	require.NoError(t, err)
	list, err := station.All(mp, builds)
	require.NoError(t, err)
	b, err := picture.Of(list[0], picture.Asked{})
	require.NoError(t, err)
	return b
}

func TestCaps(t *testing.T) {
	for name, c := range map[string]struct {
		rules       string
		steps, stay []string
		beyond      string
	}{
		"nothing": {},
		"what no cap says": {
			rules:  "disable \"Insert\" {}\nsnippet \"F6\" { text = \"NHN\" }\n",
			beyond: "No cap has a word for what these do: F6, Insert",
		},
		"a cap of a shape of its own": {
			rules: "remap \"Enter\" { to = \"Tab\" }\n",
			stay:  []string{"Enter (Enter) is Tab now, but its cap has a shape of its own"},
		},
		"a swap on each side of the space bar": {
			rules: "swap \"AltLeft\" \"MetaLeft\" {}\nswap \"AltRight\" \"MetaRight\" {}\n",
			steps: []string{
				"let Alt (AltLeft) and Meta (MetaLeft) change places", "let Meta (MetaRight) and AltGr (AltRight) change places",
			},
		},
		"three in a ring, in two rows": {
			rules: "keys = { KeyQ = \"KeyW\", KeyW = \"KeyA\", KeyA = \"KeyQ\" }\n",
			steps: []string{
				"put W (KeyW) onto KeyQ; A (KeyA) onto KeyW (another row: only where all caps have one slope); Q (KeyQ) " +
					"onto KeyA (another row: only where all caps have one slope)",
			},
		},
		"a cap that is needed where it is": {
			rules: "remap \"KeyX\" { to = \"KeyY\" }\n",
			stay:  []string{"X (KeyX) is Z now, but the cap that says Z is right where it is"},
		},
		"a cap of another size": {
			rules: "swap \"CapsLock\" \"Escape\" {}\n",
			stay: []string{
				"Caps (CapsLock) is Esc now, but the cap that says Esc has another size",
				"Esc (Escape) is Caps now, but the cap that says Caps has another size",
			},
		},
		"the space bar": {
			rules: "swap \"KeyX\" \"Space\" {}\n",
			stay: []string{
				"X (KeyX) is Space now, but the cap that says nothing has another size",
				"The bar (Space) is X now, but the cap that says X has another size",
			},
		},
		"a word that no cap has": {
			rules: "hyper \"CapsLock\" {}\n",
			stay:  []string{"Caps (CapsLock) is Hyper now, but no cap of this board says Hyper"},
		},
		"a key that is off gives its cap away": {
			rules:  "remap \"ScrollLock\" { to = \"Pause\" }\ndisable \"Pause\" {}\n",
			steps:  []string{"put Pause (Pause) onto ScrollLock; Scrl (ScrollLock) onto Pause, for want of a better place"},
			beyond: "No cap has a word for what these do: Pause",
		},
	} {
		m := picture.Caps(board(t, c.rules))
		var steps, stay []string
		for _, s := range m.Steps() {
			steps = append(steps, s.String())
		}
		for _, s := range m.Stay {
			stay = append(stay, s.String())
		}
		assert.Equal(t, c.steps, steps, name)
		assert.ElementsMatch(t, c.stay, stay, name)
		assert.Equal(t, c.beyond, m.Beyond(), name)
	}
}

// Of random mappings, no cap is made of nothing: each that lay on the board lies there once afterwards, on a key of its
// size, and says there what the key does unless it is left over.
func TestCapsAreMovedNotMade(t *testing.T) {
	randomly(t, 40, func(t *rapid.T, machines []*station.Station) {
		boards, err := picture.Every(machines, picture.Asked{})
		require.NoError(t, err)
		for _, b := range boards {
			requireMoved(t, b)
		}
	})
}

func requireMoved(t require.TestingT, b *picture.Board) {
	m := picture.Caps(b)
	from, to, size := map[keys.Key]bool{}, map[keys.Key]bool{}, map[keys.Key][3]int{}
	printed := map[keys.Key]string{}
	for _, c := range b.Caps {
		size[c.Key], printed[c.Key] = [3]int{c.Width, c.Rows, c.Half}, c.Printed
	}
	for _, mv := range m.Moves {
		require.False(t, from[mv.From] || to[mv.To], "%v moves twice", mv)
		from[mv.From], to[mv.To] = true, true
		require.Equal(t, printed[mv.From], mv.Legend)
		require.Equal(t, size[mv.From], size[mv.To], "%v does not fit", mv)
	}
	require.Equal(t, from, to, "a key is left without a cap, or a cap without a key")
	told := map[keys.Key]bool{}
	for _, k := range m.Wordless {
		told[k] = true
	}
	for _, s := range m.Stay {
		told[s.Key] = true
	}
	for _, c := range m.After.Caps {
		if c.Note == 0 || told[c.Key] {
			continue
		}
		n := b.Notes[c.Note-1]
		if n.Kind == picture.Lost || n.Acts.String() == "Space" { // whose cap says nothing
			continue
		}
		// A modifier whose cap names it says so by its cap.
		require.True(t, n.Kind == picture.Key || n.Kind == picture.Modifier, "nothing is said of %s, which %s", c.Key, n.Does)
		require.Equal(t, c.Printed, n.Short, "%s does not say what it does", c.Key)
	}
	for _, d := range picture.Compare(b, b).Differences {
		require.Fail(t, "a board differs from itself", "%v", d)
	}
}
