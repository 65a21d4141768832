package live_test

import (
	"bytes"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/change"
	"leitstand/core/install"
	"leitstand/core/install/live"
)

// staged is a folder that stands for a machine.
func staged(t testing.TB) *live.Machine {
	t.Helper()
	return &live.Machine{Root: t.TempDir(), Home: "/home/mess"}
}

func (d draws) file(m *live.Machine, name string, data []byte) {
	at := filepath.Join(m.Root, strings.Replace(name, "~", m.Home, 1))
	require.NoError(d, os.MkdirAll(filepath.Dir(at), 0o755))
	require.NoError(d, os.WriteFile(at, data, 0o644))
}

// put writes a file, whatever it has.
func put(m *live.Machine, name string, f install.File) error {
	was, _ := m.File(name) // what cannot be read cannot be written either
	return m.Put(name, was, f)
}

type draws struct{ *rapid.T }

// groupsFile draws a file of groups and keys as users and programs leave them.
func (d draws) groupsFile() []byte {
	line := rapid.SampledFrom([]string{
		"[Keyboard]", "[Keyboard][Deep]", "RepeatRate=33", "RepeatRate = 5", "# a comment", "", "Other=x\\sy", "[Mouse]",
		"a=b", "stray", "[",
	})
	text := strings.Join(rapid.SliceOfN(line, 0, 9).Draw(d.T, "lines"), "\n")
	if rapid.Bool().Draw(d.T, "end") && text != "" {
		text += "\n"
	}
	return []byte(text)
}

// What is set in a file of a store is what it then has, no other key has changed, and where keys are given back what
// they had, the file has its bytes again.
func TestFiledStores(t *testing.T) {
	rapid.Check(t, func(rt *rapid.T) {
		d := draws{rt}
		m := staged(t)
		store := rapid.SampledFrom([]string{change.KDE, change.Dconf, change.Keeper}).Draw(rt, "store")
		keys := map[string][]string{
			change.KDE:    {"kcminputrc:[Keyboard]RepeatRate", "kcminputrc:[Keyboard][Deep]New", "kcminputrc:[New]a"},
			change.Dconf:  {"/Keyboard/RepeatRate", "/Keyboard/b", "/new/deep/c"},
			change.Keeper: {"[Keyboard]RepeatRate", "[kwin]Window Close", "[leitstand-0.desktop]_launch"},
		}[store]
		name := m.KeptIn(store, keys[0])
		had := d.groupsFile()
		if rapid.Bool().Draw(rt, "there") {
			d.file(m, name, had)
		} else {
			had = nil
		}
		value := func() change.Value {
			switch store {
			case change.KDE:
				return change.Text(rapid.SampledFrom([]string{"", "5", " a\tb\\", "x=y"}).Draw(rt, "text"))
			case change.Keeper:
				return change.Texts(
					rapid.SampledFrom([][]string{{}, {"Meta+F4"}, {"Meta+\\,", "F7"}}).Draw(rt, "chords"),
				)
			default:
				return rapid.SampledFrom([]change.Value{
					change.Text("a 'b'"), change.Unsigned(3), change.Texts{}, change.Texts{"a", "b"},
				}).Draw(rt, "value")
			}
		}
		var back []install.Entry
		others := map[string]change.Value{}
		for i, key := range keys {
			was, err := m.Get(store, key)
			require.NoError(rt, err)
			if rapid.Bool().Draw(rt, key) {
				back = append(back, install.Entry{Key: key, Value: was})
				want := value()
				require.NoError(rt, m.Set(store, []install.Entry{{Key: key, Value: want, Label: "words, and more"}}))
				got, err := m.Get(store, key)
				require.NoError(rt, err)
				require.Equal(rt, want, got, "%d", i)
				continue
			}
			others[key] = was
		}
		for key, was := range others {
			got, err := m.Get(store, key)
			require.NoError(rt, err)
			require.Equal(rt, was, got, key)
		}
		require.NoError(rt, m.Set(store, back))
		for _, e := range back {
			got, err := m.Get(store, e.Key)
			require.NoError(rt, err)
			require.Equal(rt, e.Value, got, e.Key)
		}
	})
}

// Through the journal a file of keys has just its bytes again, whatever they were.
func TestFilesOfKeysHaveTheirBytesAgain(t *testing.T) {
	const channel = `<?xml version="1.0" encoding="UTF-8"?>
<channel name="keyboards" version="1.0">
  <property name="Default" type="empty">
    <property name="KeyRepeat" type="bool" value="true"><property name="Rate" type="int" value="7"/>
    </property></property>
  <property name="Empty" type="empty"/>
</channel>`
	rapid.Check(t, func(rt *rapid.T) {
		d := draws{rt}
		m := staged(t)
		had := map[string][]byte{"~/.config/kcminputrc": d.groupsFile(), "~/.config/dconf/user.txt": d.groupsFile()}
		if rapid.Bool().Draw(rt, "channel") {
			version := rapid.SampledFrom([]string{"1.0", "1.1"}).Draw(rt, "version of XML")
			had["~/.config/xfce4/xfconf/xfce-perchannel-xml/keyboards.xml"] =
				[]byte(strings.Replace(channel, `version="1.0" encoding`, `version="`+version+`" encoding`, 1))
		}
		for name, data := range had {
			d.file(m, name, data)
		}
		before := tree(t, m.Root)
		set := func(store, key string, v change.Value) install.Item {
			return install.Item{Change: change.Setting{Store: store, Key: key, To: v}, By: store}
		}
		items := []install.Item{
			set(change.KDE, "kcminputrc:[Keyboard]RepeatRate", change.Int(5)),
			set(change.KDE, "kcminputrc:[New]b", change.Bool(true)),
			set(change.Dconf, "/Keyboard/RepeatRate", change.Unsigned(7)),
			set(change.Xfconf, "keyboards:/Default/KeyRepeat/Rate", change.Int(40)),
			set(change.Xfconf, "keyboards:/Default/KeyRepeat/Delay", change.Int(220)),
			set(change.Xfconf, "keyboards:/Empty/x<y", change.Texts{"a", "\"b\""}),
			// What every machine has stands in a file that is to mean the same.
			{By: change.Xfconf, Change: change.Setting{
				Store: change.Xfconf, Key: "keyboards:/Default/override", To: change.Bool(true), Assumed: true,
			}},
		}
		for range rapid.IntRange(1, 3).Draw(rt, "installs") {
			list := rapid.Permutation(items).Draw(rt, "order")[:rapid.IntRange(1, len(items)).Draw(rt, "n")]
			carry(t, m, install.Wanted{Installed: install.Installed{Items: list}})
			for _, i := range list {
				s := i.Change.(change.Setting)
				got, err := m.Get(s.Store, s.Key)
				require.NoError(rt, err)
				require.Equal(rt, change.AsKept(s.Store, s.To), got, s.Key)
			}
		}
		carry(t, m, install.Wanted{})
		after := tree(t, m.Root)
		require.Equal(rt, before, after)
	})
}

func carry(t testing.TB, m *live.Machine, want install.Wanted) {
	t.Helper()
	book := m.Book()
	s, err := install.Begin(install.Installer{Machine: m, Book: book}, time.Now(), book.Lock)
	require.NoError(t, err)
	defer s.End()
	plan, err := s.Plan(want)
	require.NoError(t, err)
	require.NoError(t, s.Carry(s.Journal, plan, install.Terms{}))
}

// A link within the root is followed, and stays one; one that leads out is refused, as is what is no file.
func TestLinks(t *testing.T) {
	m := staged(t)
	home := filepath.Join(m.Root, m.Home)
	require.NoError(t, os.MkdirAll(filepath.Join(home, "dotfiles"), 0o755))
	require.NoError(t, os.MkdirAll(filepath.Join(home, ".config"), 0o755))
	outside := filepath.Join(t.TempDir(), "theirs")
	require.NoError(t, os.WriteFile(outside, []byte("theirs"), 0o644))
	for link, to := range map[string]string{
		".config/i3": "../dotfiles", "dotfiles/new": "made-later", "out": outside, "above": "../../../../../..",
		"round": "round",
	} {
		require.NoError(t, os.Symlink(to, filepath.Join(home, link)))
	}
	require.NoError(t, put(m, "~/.config/i3/config", install.File{Data: []byte("x"), Mode: 0o600}))
	data, err := os.ReadFile(filepath.Join(home, "dotfiles/config"))
	require.NoError(t, err)
	assert.Equal(t, "x", string(data))
	require.NoError(t, put(m, "~/dotfiles/new", install.File{Data: []byte("y"), Mode: 0o600}))
	to, err := os.Readlink(filepath.Join(home, "dotfiles/new"))
	require.NoError(t, err)
	assert.Equal(t, "made-later", to)
	require.NoError(t, put(m, "~/dotfiles/new", install.File{}))
	_, err = os.Readlink(filepath.Join(home, "dotfiles/new"))
	require.NoError(t, err, "what goes is what it leads to")

	require.NoError(t, put(m, "~/none/x", install.File{}))
	assert.NoDirExists(t, filepath.Join(home, "none"), "what is removed needs no folder")

	for _, name := range []string{"~/out", "~/above/etc/x", "~/above/" + filepath.Base(outside)} {
		_, err := m.File(name)
		require.ErrorIs(t, err, live.ErrOutside, name)
		require.ErrorIs(t, put(m, name, install.File{Data: []byte("ours")}), live.ErrOutside, name)
	}
	for _, name := range []string{"~/round", "~/dotfiles"} {
		_, err := m.File(name)
		require.Error(t, err, name)
		require.Error(t, put(m, name, install.File{Data: []byte("ours")}), name)
	}
	data, err = os.ReadFile(outside)
	require.NoError(t, err)
	assert.Equal(t, "theirs", string(data))
}

// A file with a second name is written in place, so that both are the same file; one that is read-only is refused.
func TestSecondNameAndReadOnly(t *testing.T) {
	m := staged(t)
	d := filepath.Join(m.Root, m.Home)
	require.NoError(t, os.MkdirAll(d, 0o755))
	require.NoError(t, os.WriteFile(filepath.Join(d, "one"), []byte("was"), 0o640))
	require.NoError(t, os.Link(filepath.Join(d, "one"), filepath.Join(d, "two")))
	require.NoError(t, put(m, "~/one", install.File{Data: []byte("is"), Mode: 0o640}))
	data, err := os.ReadFile(filepath.Join(d, "two"))
	require.NoError(t, err)
	assert.Equal(t, "is", string(data))
	require.NoError(t, os.Chmod(filepath.Join(d, "one"), 0o440))
	require.ErrorContains(t, put(m, "~/one", install.File{Data: []byte("x")}), "read-only")
	entries, err := os.ReadDir(d)
	require.NoError(t, err)
	assert.Len(t, entries, 2, "nothing is left beside them")
}

// A text of the keeper's as it spells chords has Qt's numbers, and back.
func TestQtChords(t *testing.T) {
	for _, chord := range []string{
		"Meta+F6", "Ctrl+Alt+Shift+A", "Meta+Left", "Print", "F35", "Meta+,", "Ctrl+#, Alt+Ü", "+",
	} {
		n := change.QtNumbers(chord)
		assert.Equal(t, n, change.QtNumbers(change.QtChord(n)), chord)
	}
	rapid.Check(t, func(rt *rapid.T) {
		key := rapid.OneOf(rapid.IntRange(0x21, 0x2FFF), rapid.IntRange(0x01000000, 0x01000120)).Draw(rt, "key")
		n := []int32{int32(key | rapid.IntRange(0, 15).Draw(rt, "modifiers")<<25), 0, 0, 0}
		require.Equal(rt, n, change.QtNumbers(change.QtChord(n)), change.QtChord(n))
	})
}

// The form of Xfce's files is read from whatever stands there: it is refused, or read.
func FuzzChannel(f *testing.F) {
	f.Add([]byte(`<channel name="a"><property name="b" type="int" value="1"/></channel>`), "a:/b")
	f.Add([]byte(`<channel name="a"/>`), "a:/b/c")
	f.Fuzz(func(t *testing.T, data []byte, key string) {
		if !strings.HasPrefix(key, "a:/") || bytes.ContainsAny([]byte(key), "\x00") {
			return
		}
		m := staged(t)
		draws := filepath.Join(m.Root, m.Home, ".config/xfce4/xfconf/xfce-perchannel-xml")
		require.NoError(t, os.MkdirAll(draws, 0o755))
		require.NoError(t, os.WriteFile(filepath.Join(draws, "a.xml"), data, 0o644))
		if _, err := m.Get(change.Xfconf, key); err != nil {
			return
		}
		_ = m.Set(change.Xfconf, []install.Entry{{Key: key, Value: change.Int(3)}})
	})
}

// Who waits in vain for another run is told which process that is.
func TestLockNamesItsHolder(t *testing.T) {
	m := &live.Machine{Home: t.TempDir(), Patience: 50 * time.Millisecond}
	book := m.Book()
	unlock, err := book.Lock()
	require.NoError(t, err)
	_, err = book.Lock()
	require.ErrorContains(t, err, fmt.Sprintf("another leitstand is at work here (process %d)", os.Getpid()))
	unlock()
	assert.NoDirExists(t, filepath.Join(m.Home, ".local"), "nothing was kept")
	unlock, err = book.Lock()
	require.NoError(t, err)
	unlock()
}
