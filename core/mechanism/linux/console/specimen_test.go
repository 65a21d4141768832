package console_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/mechanism/linux/console"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

// What programs on a kernel's console were given is what is read of the keymap, as far as it says
// so by itself: texts, consoles and what gives nothing.
func TestReadsSpecimens(t *testing.T) {
	for dir, s := range realtest.Specimens(t, "../../../..", "console") {
		data, err := os.ReadFile(filepath.Join(dir, s.Files[0]))
		require.NoError(t, err)
		list, err := console.Mechanism{}.Read(machine(s.Layouts[0]), folder(string(data)))
		require.NoError(t, err)
		compared := 0
		for _, p := range s.Presses {
			c := sample.Chord(p.Keys)
			for _, b := range list {
				if !b.Chord.Overlaps(c) {
					continue
				}
				switch b.Effect.Kind {
				case behaviour.Types:
					assert.Equal(t, b.Effect.Text, p.Typed, "%s: %s", dir, p.Keys)
				case behaviour.Nothing:
					assert.Empty(t, p.Typed, "%s: %s", dir, p.Keys)
				case behaviour.Acts:
					assert.NotZero(t, p.Console, "%s: %s", dir, p.Keys)
				default:
					assert.NotEmpty(t, p.Typed, "%s: %s", dir, p.Keys)
				}
				compared++
			}
		}
		assert.Greater(t, compared, 8, dir)
	}
}
