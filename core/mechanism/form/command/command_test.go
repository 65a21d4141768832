package command_test

import (
	"os"
	"os/exec"
	"strings"
	"testing"
	"unicode"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/mechanism/form/command"
	"leitstand/internal/realtest"
	"leitstand/internal/sample"
)

var word = rapid.OneOf(rapid.Just(sample.Nasty), rapid.StringMatching(`[ -~äß€\n\t]{0,12}`))

// A line has the words it was made of: read by our rules, and by a real shell.
func TestLine(t *testing.T) {
	realtest.Need(t, "sh", "dash")
	rapid.Check(t, func(t *rapid.T) {
		words := rapid.SliceOfN(word, 1, 4).Draw(t, "words")
		line := command.Line(words)
		got, err := command.Split(line)
		require.NoError(t, err)
		require.Equal(t, words, got)
		out, err := exec.Command("sh", "-c", "printf '%s\\0' "+line).Output()
		require.NoError(t, err)
		want := ""
		for _, w := range words {
			want += w + "\x00"
		}
		require.Equal(t, want, string(out))
	})
}

// The home folder is put in for a ~ at the beginning of a word, and for no other, by a real
// shell.
func TestHome(t *testing.T) {
	words := []string{"printf", `%s\n`, "~", "~/", "~/a b/'c' $x", "x~", "~shf", "~/#;&", "a/~/b"}
	want := "/home/tide\n/home/tide/\n/home/tide/a b/'c' $x\nx~\n~shf\n/home/tide/#;&\na/~/b\n"
	l := behaviour.Launch{Command: words, Dir: "~/.."}
	started := command.Words(l)
	for _, c := range [][]string{started[1:], {"-c", command.Script(l)}} {
		run := exec.Command("sh", c...)
		run.Env = []string{"HOME=" + t.TempDir(), "PATH=" + os.Getenv("PATH")}
		out, err := run.Output()
		require.NoError(t, err)
		require.Equal(t, strings.ReplaceAll(want, "/home/tide", strings.TrimPrefix(run.Env[0], "HOME=")), string(out))
	}
	require.Equal(t, l, command.Read(started))
	got, err := command.ReadScript(command.Script(l))
	require.NoError(t, err)
	require.Equal(t, l, got)

	// A ~ that nothing puts anything in for stays one.
	for _, literal := range []behaviour.Launch{command.Read([]string{"cat", "~/x"}), command.ReadShell("cat '~/x'")} {
		require.Equal(t, "sh", literal.Command[0])
		require.NotContains(t, command.Words(literal), "~/x")
	}
	require.Equal(t, []string{"cat", "~/x"}, command.ReadShell("cat ~/x").Command)
	_, err = command.ReadScript("exec cat '~/x'")
	require.Error(t, err)
}

// A launch reads back as itself, as words and as a script.
func TestLaunch(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		l := behaviour.Launch{
			Confirm: rapid.Bool().Draw(t, "asks"),
			Dir:     rapid.OneOf(rapid.Just(""), word).Draw(t, "dir"),
		}
		switch rapid.IntRange(0, 2).Draw(t, "kind") {
		case 0:
			l.App = "gauge.desktop"
		case 1:
			l.Open = "https://tides.example/suederhaff?days=3"
		default:
			l.Command = append([]string{"tidegauge"}, rapid.SliceOfN(word, 0, 3).Draw(t, "arguments")...)
		}
		require.Equal(t, l, command.Read(command.Words(l)))
		got, err := command.ReadScript(command.Script(l))
		require.NoError(t, err)
		require.Equal(t, l, got)
	})
}

// A comment of any launch is one short line.
func TestClear(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		words := rapid.SliceOfN(rapid.OneOf(rapid.String(), rapid.Just(sample.Nasty)), 1, 9).Draw(t, "words")
		for _, l := range []behaviour.Launch{{Command: words}, {Open: words[0] + "\\"}, {App: "a", Dir: words[0]}} {
			text := command.Clear(l)
			assert.False(t, strings.ContainsFunc(text, unicode.IsControl), "%q", text)
			assert.False(t, strings.HasSuffix(text, `\`), "%q", text)
			assert.LessOrEqual(t, len([]rune(text)), 170)
		}
	})
	assert.Equal(
		t,
		`runs tidegauge --station "Süderhaff 3"`,
		command.Clear(behaviour.Launch{Command: []string{"tidegauge", "--station", "Süderhaff 3"}}),
	)
}

// Whatever line is split, its words written as a line are those words; and a line that a
// shell would start is read as a launch without breaking off.
func FuzzSplit(f *testing.F) {
	for _, seed := range []string{"tidegauge --station 'Süderhaff 3'", `a "b\"c" d\ e # f`, "'", `\`, "~/x | y", "exec sh -c 'a; b'", "xdg-open 'x'", "exec eval \"`printf 'a'`\""} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, line string) {
		_ = command.ReadShell(line)
		if l, err := command.ReadScript(line); err == nil {
			_ = command.Clear(l)
		}
		words, err := command.Split(line)
		if err != nil {
			return
		}
		again, err := command.Split(command.Line(words))
		require.NoError(t, err, "%q", words)
		require.Equal(t, words, again)
	})
}
