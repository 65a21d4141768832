package change_test

import (
	"fmt"
	"os"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/change"
	"leitstand/internal/realtest"
)

// The lines of a registry's steps, run by Wine's command interpreter, set values beside those that others
// have, and bring back what was there.
func TestRegistrySteps(t *testing.T) {
	wine := realtest.NewWine(t)
	const key = `HKEY_CURRENT_USER\Software\Tide office`
	list := []change.Change{
		change.Setting{
			About: change.About{In: "tide/station.reg"},
			Store: change.Registry,
			Key:   key + ":Station",
			To:    change.Text(`Süderhaff "3"`),
		},
		change.Setting{
			About:  change.About{In: "tide/leitstand.reg"},
			Store:  change.Registry,
			Key:    key + ":Letters",
			To:     change.Text("HXQ"),
			Merged: change.Letters,
		},
		change.Setting{
			About:  change.About{In: "tide/leitstand.reg"},
			Store:  change.Registry,
			Key:    key + ":Scancode Map",
			Merged: change.Scancodes,
			To: change.Bytes(
				"\x00\x00\x00\x00\x00\x00\x00\x00\x03\x00\x00\x00\x01\x00\x3a\x00\x00\x00\x52\xe0\x00\x00\x00\x00",
			),
		},
	}
	require.NoError(t, os.MkdirAll(wine.Path("lab/tide"), 0o700))
	for _, f := range change.Folder(list) {
		require.NoError(t, os.WriteFile(wine.Path("lab", f.Path), f.Data, 0o600))
	}
	steps, back := change.Steps(list)
	lines := func(steps []change.Step) (all []string) {
		for _, st := range steps {
			all = append(all, st.Lines...)
		}
		return all
	}
	quoted := `"` + key + `"`
	export := func(name string) string { return "reg export " + quoted + ` C:\lab\` + name + " /y" }
	cases := []struct{ had, letters, pairs string }{
		{"", "HXQ", "03,00,00,00,01,00,3a,00,00,00,52,e0,00,00,00,00"},
		{"XA", "XAHQ", "04,00,00,00,01,00,3a,00,00,00,52,e0,5b,e0,38,00,00,00,00,00"},
	}
	var script []string
	for i, c := range cases {
		script = append(script, "reg delete "+quoted+" /f", "reg add "+quoted+" /v Depth /t REG_DWORD /d 5 /f")
		if c.had != "" { // letters, and a key that we map, too, and another one
			script = append(script, "reg add "+quoted+" /v Letters /d "+c.had+" /f", "reg add "+quoted+
				` /v "Scancode Map" /t REG_BINARY /d 0000000000000000030000001D003A005BE0380000000000 /f`)
		}
		n := fmt.Sprint(i)
		script = slices.Concat(script, []string{export("had" + n)}, lines(steps), lines(steps), // twice is once
			[]string{export("has" + n)}, lines(back), []string{export("again" + n)})
	}
	// A key that was not there is not there again, unless others have used it.
	remove := "reg delete " + quoted + " /f"
	script = slices.Concat(script, []string{remove}, lines(steps), lines(back), []string{export("gone")}, lines(steps),
		[]string{"reg add " + quoted + " /v Depth /d 5 /f"}, lines(back), []string{export("used")})
	wine.Batch("lab", script...)
	text := func(name string) string {
		raw, err := os.ReadFile(wine.Path("lab", name))
		require.NoError(t, err)
		return strings.ReplaceAll(strings.ReplaceAll(string(raw), "\x00", ""), "\\\r\n  ", "")
	}
	for i, c := range cases {
		has := text(fmt.Sprint("has", i))
		assert.Contains(t, has, `"Letters"="`+c.letters+`"`)
		assert.Contains(t, has, `\"3\"`)
		assert.Contains(t, has, `"Scancode Map"=hex:00,00,00,00,00,00,00,00,`+c.pairs)
		assert.Equal(t, text(fmt.Sprint("had", i)), text(fmt.Sprint("again", i)))
	}
	assert.NoFileExists(t, wine.Path("lab", "gone"))
	assert.Contains(t, text("used"), `"Depth"`)
}
