package folder_test

import (
	"os"
	"path/filepath"
	"testing"

	"github.com/stretchr/testify/require"
)

// Whatever stands in a record, nothing out of the folder is touched, and nothing in it that
// is not ours.
func FuzzRecord(f *testing.F) {
	digest := "2d711642b726b04401627ca9fbac32f5c8530fb1903cc4db02258717921a4881" // of x
	for _, seed := range []string{
		`{"a":"` + digest + `"}`, `{"../mine":"` + digest + `","../../mine":"` + digest + `","/etc/hosts":""}`, `{"a":1}`,
		`{".":"","gauge":"","mine":"` + digest + `"}`, `{`, `null`, `[]`,
	} {
		f.Add([]byte(seed))
	}
	f.Fuzz(func(t *testing.T, text []byte) {
		base := t.TempDir()
		dir := filepath.Join(base, "out")
		require.NoError(t, os.MkdirAll(filepath.Join(dir, "gauge"), 0o755))
		for name, data := range map[string][]byte{"mine": []byte("y"), "out/mine": []byte("y"), "out/gauge/mine": []byte("y"), "out/gauge/record": text} {
			require.NoError(t, os.WriteFile(filepath.Join(base, name), data, 0o644))
		}
		err := write(dir, map[string]string{"b": "new"})
		for _, name := range []string{"mine", "out/mine", "out/gauge/mine"} {
			data, errOf := os.ReadFile(filepath.Join(base, name))
			require.NoError(t, errOf, name)
			require.Equal(t, "y", string(data))
		}
		if err == nil {
			data, err := os.ReadFile(filepath.Join(dir, "gauge", "b"))
			require.NoError(t, err)
			require.Equal(t, "new", string(data))
		}
	})
}
