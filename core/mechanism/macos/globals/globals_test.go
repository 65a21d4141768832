package globals_test

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/macos/globals"
	"leitstand/internal/sample"
)

func accents(v bool) behaviour.Binding {
	return behaviour.Set(behaviour.Option{Kind: behaviour.Accents}, behaviour.Truth(v))
}

func TestReadsWhatItWrites(t *testing.T) {
	m := sample.Mac("us")
	for _, v := range []bool{true, false} {
		out, err := mechanism.Write(globals.Mechanism{}, m, []behaviour.Binding{accents(v)})
		require.NoError(t, err)
		got, err := globals.Mechanism{}.Read(m, fstest.MapFS{out.Files()[0].Path: {Data: out.Files()[0].Data}})
		require.NoError(t, err)
		assert.Empty(t, behaviour.Compare([]behaviour.Binding{accents(v)}, got))
	}
	assert.Equal(t, mechanism.Unavailable, globals.Mechanism{}.Take(m, sample.Setting("repeat rate", "40/s")).Verdict)
}

func FuzzRead(f *testing.F) {
	f.Add([]byte(`{ApplePressAndHoldEnabled = 1;}`))
	f.Fuzz(func(t *testing.T, data []byte) {
		_, _ = globals.Mechanism{}.Read(sample.Mac("us"), fstest.MapFS{"globals/NSGlobalDomain.plist": {Data: data}})
	})
}
