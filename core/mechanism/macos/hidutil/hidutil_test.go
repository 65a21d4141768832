package hidutil_test

import (
	"bytes"
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/macos/hidutil"
	"leitstand/internal/sample"
)

const path = "hidutil/leitstand.keymapping.plist"

// What is written reads back as what was meant, for all boards and for one.
func TestReadsWhatItWrites(t *testing.T) {
	m := vessel(t)
	rapid.Check(t, func(t *rapid.T) {
		// A key that is to be what it is anyhow, such as Insert as Help, is in no file.
		taken := func(b behaviour.Binding) bool {
			out, err := mechanism.Write(hidutil.Mechanism{}, m, []behaviour.Binding{b})
			return err == nil && len(out.Changes) > 0 && hidutil.Mechanism{}.Take(m, b).Verdict >= mechanism.Limited
		}
		list := sample.Positions(t, taken)
		for _, b := range sample.Positions(t, func(b behaviour.Binding) bool { return taken(sample.On("chart-table", b)) }) {
			list = append(list, sample.On("chart-table", b))
		}
		behaviour.Sort(list)
		out, err := mechanism.Write(hidutil.Mechanism{}, m, list)
		require.NoError(t, err)
		got, err := hidutil.Mechanism{}.Read(m, mechanism.Folder(out.Files()))
		require.NoError(t, err)
		require.Empty(t, behaviour.Compare(list, got))
	})
}

func TestTake(t *testing.T) {
	m := vessel(t)
	for _, c := range []struct {
		binding behaviour.Binding
		verdict mechanism.Verdict
		words   string
	}{
		{sample.Becomes("CapsLock", "Escape"), mechanism.Exact, ""},
		{sample.On("vessel-own", sample.Becomes("CapsLock", "Escape")), mechanism.Exact, ""},
		{sample.On("chart-table", sample.Becomes("CapsLock", "Escape")), mechanism.Limited, "another external board"},
		{sample.On("chart-table", sample.Becomes("PrintScreen", "F13")), mechanism.Exact, ""},
		{sample.Setting("repeat rate", "40/s"), mechanism.Limited, "30 ms at log-in"},
		{sample.Setting("repeat delay", "225ms"), mechanism.Exact, ""},
		{sample.Modifier("CapsLock", keys.Hyper), mechanism.NeedsAgent, "no Hyper"},
		{sample.Nothing("FnLock"), mechanism.Unavailable, "no HID usage"},
		{sample.Becomes("MouseBack", "Enter"), mechanism.Unavailable, "no buttons of a mouse"},
		{sample.Becomes("F13", "MouseBack"), mechanism.Unavailable, "no buttons of a mouse"},
		{sample.Launch(keys.Ctrl, "KeyT", behaviour.Launch{App: "org.tide.gauge"}), mechanism.Unavailable, ""},
	} {
		got := hidutil.Mechanism{}.Take(m, c.binding)
		assert.Equal(t, c.verdict, got.Verdict, c.binding.String())
		assert.Contains(t, got.Why.String(), c.words)
	}
}

// Keys that are to be what they are anyhow need no job, which would empty the lists of others.
func TestNothingToWrite(t *testing.T) {
	out, err := mechanism.Write(hidutil.Mechanism{}, vessel(t), []behaviour.Binding{
		sample.On("chart-table", sample.Becomes("PrintScreen", "F13")), sample.Becomes("Pause", "F15"),
	})
	require.NoError(t, err)
	assert.Empty(t, out.Changes)
	out, err = mechanism.Write(hidutil.Mechanism{}, vessel(t), []behaviour.Binding{
		sample.Becomes("Pause", "F15"), sample.Setting("repeat rate", "40/s"),
	})
	require.NoError(t, err)
	assert.NotContains(t, string(out.Files()[0].Data), "UserKeyMapping")
}

// An agent that was changed by hand is read as what it does now, or refused.
func TestReadsWhatIsThere(t *testing.T) {
	m := vessel(t)
	out, err := mechanism.Write(hidutil.Mechanism{}, m, []behaviour.Binding{sample.Becomes("CapsLock", "Escape")})
	require.NoError(t, err)
	for _, c := range []struct{ old, new, want string }{
		{"30064771113", "30064771072", "CapsLock does nothing"},
		{"30064771113", "30064770001", "unknown usage"},
		{"30064771129", "1", "no key has the usage"},
		{"<true/>", "<false/>", "does not run at once"},
		{"hidutil property", "hidutil list", "no hidutil property command"},
		{"--set", "--st", "no option --st"},
		{"UserKeyMapping&#34;", "UserKeyMap&#34;", "--set"},
		{"/bin/sh", "/bin/false", "/bin/sh"},
	} {
		text := out.Files()[0].Data
		require.True(t, bytes.Contains(text, []byte(c.old)), "%s in %s", c.old, text)
		got, err := hidutil.Mechanism{}.Read(
			m, fstest.MapFS{path: {Data: bytes.Replace(text, []byte(c.old), []byte(c.new), 1)}},
		)
		said := ""
		if err != nil {
			said = err.Error()
		}
		for _, b := range got {
			said += b.String()
		}
		assert.Contains(t, said, c.want)
	}
}

func FuzzRead(f *testing.F) {
	m := vessel(f)
	out, err := mechanism.Write(
		hidutil.Mechanism{}, m,
		[]behaviour.Binding{sample.Becomes("CapsLock", "Escape"), sample.On("chart-table", sample.Nothing("Insert"))},
	)
	require.NoError(f, err)
	f.Add(out.Files()[0].Data)
	f.Fuzz(func(t *testing.T, data []byte) {
		_, _ = hidutil.Mechanism{}.Read(m, fstest.MapFS{path: {Data: data}})
	})
}
