package hwdb_test

import (
	"os"
	"path/filepath"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/mapping"
	"leitstand/core/mechanism/linux/hwdb"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// What a kernel's drivers gave when keys were pressed is what is read of the file.
func TestReadsSpecimens(t *testing.T) {
	for dir, s := range realtest.Specimens(t, "../../../..", "hwdb") {
		data, err := os.ReadFile(filepath.Join(dir, s.Files[0]))
		require.NoError(t, err)
		m := machine(true)
		m.Boards = []*mapping.Board{
			{Name: "chart-table", IDs: []mapping.BoardID{{Bus: mapping.USB, Vendor: 0x627, Product: 1}}},
		}
		list, err := hwdb.Mechanism{}.Read(m, fstest.MapFS{"hwdb/" + s.Files[0]: {Data: data}})
		require.NoError(t, err)
		require.Greater(t, len(s.Presses), 20)
		for _, p := range s.Presses {
			board := map[string]string{realtest.USBBoard: "chart-table"}[p.Board]
			key := sample.Key(p.Keys[0])
			acts := behaviour.Effect{Kind: behaviour.Becomes, Key: key}
			for _, b := range list { // those of one board stand behind those of all
				if b.Chord.Key == key && (b.Board == "" || b.Board == board) {
					acts = b.Effect
				}
			}
			var want []int
			if acts.Kind == behaviour.Becomes {
				want = []int{sample.Evdev(acts.Key)}
			}
			assert.Equal(t, want, p.Codes, "%s: %s on %s", dir, p.Keys, p.Board)
		}
	}
}
