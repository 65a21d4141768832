package explorer_test

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/windows/explorer"
	"leitstand/internal/sample"
)

const path = "explorer/leitstand.reg"

// A chord is switched off by the letter of its virtual key, which follows the layout.
func TestReadsWhatItWrites(t *testing.T) {
	for _, layout := range []string{"us", "de", "fr", "ru", "hu"} {
		m := sample.Machine(mapping.Machine{System: mapping.Windows, Layouts: []string{layout}})
		var list []behaviour.Binding
		for _, k := range keys.All() {
			b := sample.Off(keys.Meta, k.String())
			if (explorer.Mechanism{}).Take(m, b).Verdict == mechanism.Limited {
				list = append(list, b)
			}
		}
		require.Greater(t, len(list), 20, layout)
		out, err := mechanism.Write(explorer.Mechanism{}, m, list)
		require.NoError(t, err)
		files := fstest.MapFS{}
		for _, f := range out.Files() {
			files[f.Path] = &fstest.MapFile{Data: f.Data}
		}
		require.Contains(t, files, path)
		got, err := explorer.Mechanism{}.Read(m, files)
		require.NoError(t, err)
		assert.Empty(t, behaviour.Compare(list, got))
	}
}

func TestTake(t *testing.T) {
	m := sample.Machine(mapping.Machine{System: mapping.Windows, Layouts: []string{"us"}})
	for chord, want := range map[string]string{
		"KeyH": "limited: the program in front gets the chord then", "ArrowLeft": "unavailable: ",
		"KeyG": "limited: the game bar is off as a whole, for all users",
		"KeyL": "limited: the screen can no longer be locked at all, and it takes an administrator's window of your own account", "F9": "unavailable: ",
	} {
		o := (explorer.Mechanism{}).Take(m, sample.Off(keys.Meta, chord))
		assert.Equal(t, want, o.Verdict.String()+": "+o.Why.String(), chord)
	}
	user := *m.Machine
	user.Admin = false
	m.Machine = &user
	assert.Equal(t, "a policy needs an administrator", explorer.Mechanism{}.Take(m, sample.Off(keys.Meta, "KeyG")).Why.String())
	_, err := explorer.Mechanism{}.Read(
		m,
		fstest.MapFS{path: {Data: []byte("REGEDIT4\n[HKCU\\Software\\Microsoft\\Windows\\" +
			"CurrentVersion\\Explorer\\Advanced]\n\"DisabledHotkeys\"=\"A!\"\n")}},
	)
	assert.ErrorContains(t, err, "no key of this machine has that virtual key")
}
