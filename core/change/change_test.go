package change_test

import (
	"errors"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/change"
)

var (
	paths = []string{"~/.config/a", "~/.config/b", "/etc/a"}
	keys  = []string{"/org/tide/a", "/org/tide/b", "/org/tide/leitstand0/c"}
	words = []string{"one", "two", "Süderhaff's 3", ""}
)

// values draws values of every type, and none.
func values(t *rapid.T, what string) change.Value {
	return rapid.SampledFrom(
		[]change.Value{
			nil,
			change.Text("x"),
			change.Text(""),
			change.Texts{},
			change.Texts{"one"},
			change.Texts{"x", "two"},
			change.Int(-3),
			change.Unsigned(3),
			change.Bool(true),
			change.Raw("(1, 'a')"),
		},
	).Draw(t, what)
}

// machines draws a machine that has something already.
func machines(t *rapid.T) *change.Simulated {
	m := change.NewSimulated()
	for _, p := range paths {
		if text := rapid.SampledFrom([]string{"none", "", "one", "one\n", "x\none\ntwo\n", "x\n"}).Draw(t, p); text != "none" {
			m.Files[p] = []byte(text)
		}
	}
	for _, k := range keys {
		if v := values(t, k); v != nil {
			m.Values[change.Dconf+":"+k] = v
		}
	}
	return m
}

func changes(t *rapid.T) []change.Change {
	return rapid.SliceOfN(rapid.Custom(func(t *rapid.T) change.Change {
		path, key, word := rapid.SampledFrom(paths).Draw(t, "path"), rapid.SampledFrom(keys).Draw(
			t, "key",
		), rapid.SampledFrom(words).Draw(t, "word")
		switch rapid.IntRange(0, 4).Draw(t, "kind") {
		case 0:
			return change.File{Path: path, Data: rapid.SampledFrom([][]byte{nil, {}, []byte("new\n")}).Draw(t, "data")}
		case 1:
			return change.Line{
				Path: path,
				Text: word,
				From: rapid.SampledFrom([]string{"", "/etc/a", "/etc/none"}).Draw(t, "from"),
				Gone: rapid.Bool().Draw(t, "gone"),
			}
		case 2:
			return change.Setting{Store: change.Dconf, Key: key, To: values(t, "to")}
		case 3:
			return change.Member{Store: change.Dconf, Key: key, Item: word, Gone: rapid.Bool().Draw(t, "gone")}
		}
		return change.Call{Do: []string{"tell"}, Undo: []string{"tell", "again"}}
	}), 0, 8).Draw(t, "changes")
}

// What is carried out is taken back to the last byte and value, and so it is when any step on
// the way fails; done again, it changes nothing.
func TestTakenBackWhole(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		before, list := machines(t), changes(t)
		m := before.Clone()
		m.FailAt = rapid.IntRange(0, 10).Draw(t, "fails at")
		undo, err := change.Carry(list, m)
		if err != nil {
			if strings.Contains(err.Error(), "is not taken back") {
				return // a fault on the way back, which is told
			}
			require.Equal(t, before.Files, m.Files)
			require.Equal(t, before.Values, m.Values)
			return
		}
		m.FailAt = 0
		_, err = change.Carry(undo, m)
		require.NoError(t, err)
		require.Equal(t, before.Files, m.Files)
		require.Equal(t, before.Values, m.Values)
	})
}

// What others have changed since is left, and said.
func TestWhatOthersChangedIsLeft(t *testing.T) {
	m := change.NewSimulated()
	m.Values["dconf:/a"] = change.Text("before")
	undo, err := change.Carry(
		[]change.Change{
			change.Setting{Store: change.Dconf, Key: "/a", To: change.Text("ours")},
			change.Member{Store: change.Dconf, Key: "/list", Item: "ours"},
		},
		m,
	)
	require.NoError(t, err)
	m.Values["dconf:/list"] = change.Texts{"ours", "theirs"}
	m.Values["dconf:/a"] = change.Text("theirs")
	_, err = change.Carry(undo[:1], m)
	require.NoError(t, err)
	assert.Equal(t, change.Texts{"theirs"}, m.Values["dconf:/list"])
	_, err = change.Carry(undo[1:], m)
	assert.ErrorIs(t, err, change.ErrChanged)
	assert.Equal(t, change.Text("theirs"), m.Values["dconf:/a"])
}

func TestLines(t *testing.T) {
	include := change.Line{Path: "~/.config/i3/config", Text: "include ours", From: "/etc/i3/config"}
	for before, want := range map[string]string{
		"": "include ours\n", "own\n": "own\ninclude ours\n", "own": "own\ninclude ours\n",
		"include ours\nown\n": "include ours\nown\n", "none": "stock\ninclude ours\n",
	} {
		m := change.NewSimulated()
		m.Files["/etc/i3/config"] = []byte("stock")
		if before != "none" {
			m.Files[include.Path] = []byte(before)
		}
		undo, err := change.Carry([]change.Change{include}, m)
		require.NoError(t, err)
		assert.Equal(t, want, string(m.Files[include.Path]), before)
		_, err = change.Carry(undo, m)
		require.NoError(t, err)
		data, there := m.Files[include.Path]
		assert.Equal(t, before != "none", there)
		if there {
			assert.Equal(t, before, string(data))
		}
	}
}

// Who is told of changes is told behind them, also when they are taken back.
func TestToldLast(t *testing.T) {
	m := change.NewSimulated()
	undo, err := change.Carry(
		[]change.Change{
			change.File{Path: "a", Data: []byte("x")},
			change.Call{Do: []string{"reload"}, Undo: []string{"reload"}},
			change.File{Path: "b", Data: []byte("x")},
		},
		m,
	)
	require.NoError(t, err)
	require.Len(t, undo, 3)
	assert.IsType(t, change.Call{}, undo[2])
	assert.Equal(t, [][]string{{"reload"}}, m.Called)
	m.FailAt = 4
	_, err = change.Carry([]change.Change{change.File{Path: "c", Data: []byte("x")}}, m)
	assert.EqualError(t, errors.Unwrap(err), "step 4 fails")
	assert.ErrorContains(t, err, "c: ")
}

// Values are read as they are spelled; what is of another type stays as it is.
func TestGVariant(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		text := rapid.StringMatching(`[ -~äß€\n\t\x01\x7f]{0,12}`)
		v := rapid.SampledFrom(
			[]change.Value{
				change.Text(text.Draw(t, "text")),
				change.Texts{text.Draw(t, "first"), text.Draw(t, "second")},
				change.Texts{},
				change.Int(rapid.IntRange(-9, 9).Draw(t, "n")),
				change.Unsigned(7),
				change.Bool(false),
			},
		).Draw(t, "value")
		require.Equal(t, v, change.ParseGVariant(change.GVariant(v)))
	})
	for text, want := range map[string]change.Value{
		`"it's"`: change.Text("it's"), `['a', "b'c"]`: change.Texts{"a", "b'c"}, `'\u00e4\U0001f30a\a'`: change.Text("ä🌊\a"), `[1, 2]`: change.Raw("[1, 2]"),
		`'open`: change.Raw("'open"), `@a(ss) []`: change.Raw("@a(ss) []"), `uint32 x`: change.Raw("uint32 x"), `'\u00'`: change.Raw(`'\u00'`), `5.0`: change.Raw("5.0"),
	} {
		assert.Equal(t, want, change.ParseGVariant(text), text)
	}
}

func FuzzParseGVariant(f *testing.F) {
	f.Add(`['a', "b"]`)
	f.Add(`'\u00e4`)
	f.Fuzz(func(t *testing.T, text string) {
		if v, ok := change.ParseGVariant(text).(change.Texts); ok {
			assert.Equal(t, v, change.ParseGVariant(change.GVariant(v)))
		}
	})
}

// Steps are undone in reverse order. Notifying a program and ending a session come last.
func TestUndoneInReverse(t *testing.T) {
	about := func(does string) change.About {
		return change.About{Says: "do " + does, Unsays: "undo " + does, In: does}
	}
	forth, back := change.Steps([]change.Change{
		change.File{About: about("file"), Path: "~/tide"},
		change.Setting{About: about("setting"), Store: change.Registry, Key: `HKEY_CURRENT_USER\Tide:Gauge`, To: change.Text("3")},
		change.Call{About: about("call"), Do: []string{"tell"}, Undo: []string{"tell"}},
		change.Call{About: about("call in turn"), Do: []string{"load"}, Undo: []string{"unload"}, InTurn: true},
		change.Hand{About: about("choose"), InTurn: true, Ends: change.EndsSession},
		change.Hand{About: about("look")},
		change.Hand{Ends: change.EndsMachine},
	})
	texts := func(steps []change.Step) (list []string) {
		for _, s := range steps {
			list = append(list, s.Text)
		}
		return list
	}
	assert.Equal(t, []string{
		"do file", "do setting", "do call", "do call in turn", "do choose", "do look", "Restart the machine.",
	}, texts(forth))
	assert.Equal(t, []string{
		"undo choose", "undo call in turn", "undo setting", "undo file", "undo call", "undo look", "Restart the machine.",
	}, texts(back))
}

// A list of an action's chords keeps those that a user has added, whatever ours takes away or adds; what the action has by
// itself is ours to take.
func TestChordsOfUsersOwnStay(t *testing.T) {
	const key = "/org/gnome/settings-daemon/plugins/media-keys/screensaver"
	stock := change.Texts{"<Super>l", "<Super>Escape"}
	for _, c := range []struct{ had, to, want change.Texts }{
		{nil, change.Texts{}, change.Texts{}},
		{change.Texts{"<Super>l", "<Control><Alt>l"}, change.Texts{}, change.Texts{"<Control><Alt>l"}},
		{change.Texts{"<Control><Alt>l"}, change.Texts{"<Super>F7", "<Super>Escape"},
			change.Texts{"<Super>F7", "<Super>Escape", "<Control><Alt>l"}},
		{change.Texts{"<Super>F7"}, change.Texts{"<Super>F7"}, change.Texts{"<Super>F7"}},
	} {
		store := change.NewSimulated()
		if c.had != nil {
			require.NoError(t, store.Set(change.Dconf, key, c.had))
		}
		list := []change.Change{change.Setting{
			Store: change.Dconf, Key: key, To: c.to, Default: stock, Merged: change.Chords,
		}}
		back, err := change.Carry(list, store)
		require.NoError(t, err)
		got, err := store.Get(change.Dconf, key)
		require.NoError(t, err)
		assert.Equal(t, c.want, got)
		_, err = change.Carry(back, store)
		require.NoError(t, err)
		got, err = store.Get(change.Dconf, key)
		require.NoError(t, err)
		if c.had == nil {
			assert.Nil(t, got)
		} else {
			assert.Equal(t, c.had, got)
		}
	}
}

// A name with a comma keeps it within the line of a shortcut, which has commas between its parts.
func TestNamesOfShortcutsKeepCommas(t *testing.T) {
	folder := change.Folder([]change.Change{change.Setting{
		About: change.About{In: "kglobalshortcutsrc"}, Store: change.Keeper, Key: "kwin:Ebb", To: change.Texts{"Meta+E"}, Label: "Ebb, then flood",
	}})
	require.Len(t, folder, 1)
	assert.Contains(t, string(folder[0].Data), `=Meta+E,none,Ebb\, then flood`)
}
