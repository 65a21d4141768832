package change_test

import (
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/change"
	"leitstand/internal/sample"
)

// standIn notes its name and its arguments, and answers as a program does that has nothing yet.
const standIn = `#!/bin/sh
{ printf '%s\0' "${0##*/}" "$@"; printf 'end of call\0'; } >> "$ARRIVED"
case "${0##*/}" in kreadconfig6) for a; do last=$a; done; echo "$last";; esac
`

// nasty are parts of names and values that a shell would act on if they were not quoted.
var nasty = []string{
	"a", "B9", ".", "-", "_", " ", "'", `"`, "`touch canary`", "$(touch canary)", ";touch canary;", "&touch canary&", "|",
	"\n", "\\", "$HOME", "*", "~", "#", "%", "!", "(", ")", "<", ">", "{a,b}", "[x]", "ü", "=", "\t", "--",
}

// Programs that the steps run receive the names and values of settings unchanged, and no shell runs any part of them:
// neither when a setting is made, nor when it is reverted.
func TestArgumentsArriveWhole(t *testing.T) {
	bin := t.TempDir()
	for _, name := range []string{"dconf", "xfconf-query", "kwriteconfig6", "kreadconfig6", "gdbus"} {
		require.NoError(t, os.WriteFile(filepath.Join(bin, name), []byte(standIn), 0o755))
	}
	sample.Anew(t, 60)
	rapid.Check(t, func(rt *rapid.T) {
		text := func(name string) string {
			return strings.Join(rapid.SliceOfN(rapid.SampledFrom(nasty), 1, 5).Draw(rt, name), "")
		}
		store := rapid.SampledFrom([]string{change.Dconf, change.Xfconf, change.KDE}).Draw(rt, "store")
		key := map[string]string{
			change.Dconf: "/org/" + text("name"), change.Xfconf: text("channel") + ":/" + text("property"),
			change.KDE: text("file") + ":[" + text("group") + "]" + text("name"),
		}[store]
		if change.CheckKey(store, key) != nil {
			rt.Skip("no such key is taken")
		}
		value := change.Text(text("value"))
		list := []change.Change{change.Setting{
			About: change.About{In: "settings/in" + text("in")}, Store: store, Key: key, To: value,
		}}
		home, err := os.MkdirTemp(t.TempDir(), "")
		require.NoError(rt, err)
		for _, f := range change.Folder(list) {
			require.NoError(rt, os.MkdirAll(filepath.Dir(filepath.Join(home, f.Path)), 0o755))
			require.NoError(rt, os.WriteFile(filepath.Join(home, f.Path), f.Data, 0o644))
		}
		forth, back := change.Steps(list)
		arrived := runSteps(rt, home, bin, forth)
		arrived = append(arrived, runSteps(rt, home, bin, back)...)
		require.NoFileExists(rt, filepath.Join(home, "canary"))
		var want []string
		switch channel, property, _ := strings.Cut(key, ":"); store {
		case change.Dconf:
			want = []string{"dconf", "read", key}
		case change.Xfconf:
			want = []string{"xfconf-query", "-c", channel, "-p", property, "-n", "-t", "string", "-s", string(value)}
		case change.KDE:
			file, group, name := change.SplitKDE(key)
			want = []string{"kwriteconfig6", "--file", file}
			for g := range strings.SplitSeq(group, "][") {
				want = append(want, "--group", g)
			}
			want = append(want, "--key", name, "--", string(value))
		}
		require.True(rt, slices.ContainsFunc(arrived, func(words []string) bool { return slices.Equal(words, want) }),
			"%q of %q", want, arrived)
	})
}

// runSteps runs the lines of steps, and returns the words that arrived at each program.
func runSteps(rt *rapid.T, home, bin string, steps []change.Step) (arrived [][]string) {
	rt.Helper()
	at := filepath.Join(home, "arrived")
	for _, s := range steps {
		cmd := exec.Command("sh", "-c", strings.Join(s.Lines, "\n"))
		cmd.Dir = home
		cmd.Env = []string{"HOME=" + home, "PATH=" + bin + ":/usr/bin:/bin", "ARRIVED=" + at}
		out, err := cmd.CombinedOutput()
		require.NoError(rt, err, "%s\n%s", out, strings.Join(s.Lines, "\n"))
	}
	data, err := os.ReadFile(at)
	require.NoError(rt, err, fmt.Sprint(steps))
	for call := range strings.SplitSeq(string(data), "end of call\x00") {
		if call != "" {
			arrived = append(arrived, strings.Split(strings.TrimSuffix(call, "\x00"), "\x00"))
		}
	}
	return arrived
}
