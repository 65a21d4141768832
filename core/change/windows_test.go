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
	t.Parallel()
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
	// What others have changed in the same key meanwhile stays.
	script = slices.Concat(script, lines(steps), []string{"reg add " + quoted + " /v Depth /t REG_DWORD /d 7 /f"}, lines(back),
		[]string{export("theirs")})
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
	assert.Contains(t, text("theirs"), "dword:00000007")
	assert.Contains(t, text("theirs"), `"Letters"="XA"`)
	assert.NoFileExists(t, wine.Path("lab", "gone"))
	assert.Contains(t, text("used"), `"Depth"`)
}

// A value is saved before it is set, or nothing is set; and what was saved is deleted only when the value is as it was.
func TestRegistryValuesAreNotLost(t *testing.T) {
	t.Parallel()
	wine := realtest.NewWine(t)
	const key = `HKEY_CURRENT_USER\Software\Tide office`
	require.NoError(t, os.MkdirAll(wine.Path("lab"), 0o700))
	for name, data := range map[string]string{
		"Water": `"%SystemRoot%" & ebb ^ <flood> | 3 > 2`, "Slack": `Süderhaff €`, "Folder": `C:\tide\`, "Empty": "", "Ebb and flood": "half past 3",
	} {
		folder := change.Folder([]change.Change{change.Setting{
			About: change.About{In: name + ".reg"}, Store: change.Registry, Key: key + ":" + name, To: change.Text(data),
		}})
		require.NoError(t, os.WriteFile(wine.Path("lab", name+".reg"), folder[0].Data, 0o600))
	}
	quoted := `"` + key + `"`
	set := func(name string) string { return "reg add " + quoted + ` /v "` + name + `" /d ours /f` }
	names := []string{"Water", "Slack", "Folder", "Empty", "Ebb and flood", "Not there"}
	words, load, ours := "", []string{}, []string{}
	for _, name := range names {
		words += ` "` + name + `"`
		ours = append(ours, set(name))
		if name != "Not there" {
			load = append(load, `reg import "`+name+`.reg"`)
		}
	}
	const errors = " 2>>errors.txt"
	export := func(name string) string { return "reg export " + quoted + " " + name + " /y" }
	wine.Batch("lab", slices.Concat(load, []string{
		export("had"), `.\settings.cmd save tide ` + quoted + words,
	}, ours, []string{`.\settings.cmd back tide ` + quoted + words + errors, export("again")})...)
	kept := func() string { return listed(t, wine.Saved()) }
	read := func(name string) string {
		raw, err := os.ReadFile(wine.Path("lab", name))
		require.NoError(t, err)
		return strings.ReplaceAll(string(raw), "\x00", "")
	}
	had, again, left := read("had"), read("again"), kept()
	for _, name := range names {
		// Wine's console has no UTF-8; Wine 8 puts no backslash before a quote, nor one at the end. What is not as it was is
		// kept.
		hard := slices.Contains([]string{"Water", "Slack", "Folder"}, name)
		if same := lineOf(had, name) == lineOf(again, name); same || !hard {
			assert.Equal(t, lineOf(had, name), lineOf(again, name))
			assert.NotContains(t, left, name+".value")
		} else {
			assert.Contains(t, left, "tide "+name+".value")
			assert.Contains(t, left, "tide "+name+".reg")
			assert.Contains(t, read("errors.txt"), name+" is not as it was, so what was saved is kept in ")
		}
	}

	// A value that is refused, as in a window without rights, keeps what was saved.
	wine.Batch("lab", "reg add "+quoted+" /v Gauge /d 3 /f", `.\settings.cmd save rights `+quoted+` Gauge`, set("Gauge"))
	saved := wine.Saved("rights Gauge.value")
	text, err := os.ReadFile(saved)
	require.NoError(t, err)
	require.NoError(t, os.WriteFile(saved, []byte(strings.Replace(string(text), "REG_SZ", "REG_NO", 1)), 0o600))
	wine.Batch("lab", `.\settings.cmd back rights `+quoted+` Gauge`+errors, "exit /b 0")
	assert.Contains(t, kept(), "rights Gauge.value")
	assert.Contains(t, read("errors.txt"), "Gauge is not as it was, so what was saved is kept in ")

	// What cannot be saved keeps all from being set.
	folder := change.Folder([]change.Change{change.Setting{
		About: change.About{In: "tide.reg"}, Store: change.Registry, Key: key + ":Gauge", To: change.Text("5"),
	}})
	require.NoError(t, os.WriteFile(wine.Path("lab/tide.reg"), folder[0].Data, 0o600))
	require.NoError(t, os.Mkdir(wine.Saved("full Gauge.part"), 0o700))
	// Another value of the key was saved before, which vouches for nothing.
	wine.Batch("lab", `.\settings.cmd save full `+quoted+` Slack`, `.\settings.cmd save full `+quoted+` Gauge`+errors, `.\settings.cmd import tide.reg full`+errors,
		export("unset"))
	assert.Contains(t, read("errors.txt"), "What Gauge has could not be saved, so nothing is set: "+key)
	assert.Contains(t, read("errors.txt"), "Nothing is set, since what was there before is not saved: full")
	assert.NotContains(t, read("unset"), `"Gauge"="5"`)
}

// The script that asks Windows says of each change whether it holds: of values with the characters that its command
// interpreter treats specially (but for ! and a lone %, which Wine expands within a value, and ^ between quotes, which it keeps), of what is merged, of what is to be absent, and of files.
func TestWindowsIsAsked(t *testing.T) {
	t.Parallel()
	wine := realtest.NewWine(t)
	wine.CompareFiles("lab")
	const key = `HKEY_CURRENT_USER\Software\Tide office`
	setting := func(name string, to change.Value, merged change.Merging) change.Change {
		return change.Setting{
			About: change.About{In: "tide/" + name + ".reg"}, Store: change.Registry, Key: key + ":" + name, To: to, Merged: merged,
		}
	}
	const map2 = "\x00\x00\x00\x00\x00\x00\x00\x00\x03\x00\x00\x00\x01\x00\x3a\x00\x00\x00\x52\xe0\x00\x00\x00\x00"
	list := []change.Change{
		setting("Water", change.Text(`"%SystemRoot%" & ebb ^ <flood> | 3 > 2`), ""),
		setting("Ebb", change.Text(`5 of "x&y" (3)`), ""),
		setting("Depth", change.Unsigned(500), ""),
		setting("Flags", change.Bytes("\x01\xab\x00"), ""),
		setting("Gone", nil, ""),
		setting("Letters", change.Text("HX"), change.Letters),
		setting("Scancode Map", change.Bytes(map2), change.Scancodes),
		change.File{About: change.About{In: "tide/gauge 100% (1).txt"}, Path: `%APPDATA%\Tide office\gauge 100% (1).txt`, Data: []byte("3\r\n")},
		change.Call{About: change.About{In: "copy"}, Holds: `fc /b tide\Ebb.reg "%APPDATA%\Tide office\copy" >nul 2>nul`},
		change.Hand{About: change.About{Says: "Choose the layout."}},
	}
	script := strings.ReplaceAll(change.AskingWindows(list), "\n", "\r\n")
	require.NoError(t, os.MkdirAll(wine.Path("lab/tide"), 0o700))
	require.NoError(t, os.WriteFile(wine.Path("lab/check.cmd"), []byte(script), 0o600))
	for _, f := range change.Folder(list) {
		require.NoError(t, os.WriteFile(wine.Path("lab", f.Path), f.Data, 0o600))
	}
	ask := func() []string {
		said := wine.Says("", "cmd", "/c", `C:\lab\check.cmd`, "&", "call", "echo", "%^errorlevel%")
		return strings.Split(strings.TrimSpace(strings.ReplaceAll(said, "\r", "")), "\n")
	}
	names := []string{"Water", "Ebb", "Depth", "Flags", "Gone", "Letters", "Scancode Map", "gauge 100% (1).txt", "copy"}
	says := func(missing ...string) (want []string) {
		for _, name := range names {
			word := "holds    "
			if slices.Contains(missing, name) {
				word = "not there"
			}
			want = append(want, word+"  "+name)
		}
		return append(want, fmt.Sprint(min(1, len(missing))))
	}
	none := slices.DeleteFunc(slices.Clone(names), func(name string) bool { return name == "Gone" })
	assert.Equal(t, says(none...), ask())

	quoted := `"` + key + `"`
	merged := []string{ // letters and pairs of others around ours
		"reg add " + quoted + " /v Letters /d AXBH /f", "reg add " + quoted +
			` /v "Scancode Map" /t REG_BINARY /d 000000000000000004000000000052E05BE0380001003A0000000000 /f`,
	}
	set := slices.Concat([]string{
		`reg import tide\Water.reg`, `reg import tide\Ebb.reg`, `reg import tide\Depth.reg`, `reg import tide\Flags.reg`,
		`mkdir "%APPDATA%\Tide office"`, `copy tide "%APPDATA%\Tide office" >nul`, `copy tide\Ebb.reg "%APPDATA%\Tide office\copy" >nul`,
	}, merged)
	wine.Batch("lab", set...)
	assert.Equal(t, says(), ask())

	for name, line := range map[string]string{
		"Water": ` /v Water /d "ebb" /f`, "Ebb": ` /v Ebb /d "one" /f`, "Depth": " /v Depth /d 500 /f", "Gone": " /v Gone /d 1 /f",
		"Flags": " /v Flags /t REG_BINARY /d 01AB /f", "Letters": " /v Letters /d AXB /f",
		// Its second pair is one of ours only where pairs are not told apart.
		"Scancode Map": ` /v "Scancode Map" /t REG_BINARY /d 00000000000000000400000001003A0099990000 /f`,
	} {
		wine.Batch("lab", "reg add "+quoted+line)
		assert.Equal(t, says(name), ask(), name)
		wine.Batch("lab", append(set, "reg delete "+quoted+" /v Gone /f", "exit /b 0")...)
	}
	wine.Batch("lab", `echo 4>"%APPDATA%\Tide office\gauge 100%% (1).txt"`)
	assert.Equal(t, says("gauge 100% (1).txt"), ask())
}

// listed names the files of a folder.
func listed(t *testing.T, dir string) string {
	t.Helper()
	entries, err := os.ReadDir(dir)
	require.NoError(t, err)
	names := make([]string, len(entries))
	for i, e := range entries {
		names[i] = e.Name()
	}
	return strings.Join(names, " ")
}

// lineOf is the line of a value in an export of the registry, "" for none.
func lineOf(text, value string) string {
	for line := range strings.SplitSeq(text, "\r\n") {
		if strings.HasPrefix(line, `"`+value+`"=`) {
			return line
		}
	}
	return ""
}
