package profile_test

import (
	"testing"
	"testing/fstest"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"leitstand/core/behaviour"
	"leitstand/core/keys"
	"leitstand/core/mechanism"
	"leitstand/core/mechanism/macos/hotkeys"
	"leitstand/core/mechanism/macos/menukeys"
	"leitstand/core/mechanism/macos/profile"
	"leitstand/core/mechanism/macos/texts"
	"leitstand/internal/sample"
)

// What is for everyone goes into a profile, and reads back from it; what no profile holds, and what is for a
// machine without an administrator, stays in the user's own place.
func TestEveryone(t *testing.T) {
	m := sample.Mac("de")
	item := sample.Act(keys.Ctrl|keys.Alt, "KeyE", "")
	item.Effect = behaviour.Choosing([]string{"Export…"})
	inside := item
	inside.Effect = behaviour.Choosing([]string{"File", "Export…"})
	word := behaviour.Binding{
		Level: behaviour.Typing, Word: ";shf", Effect: behaviour.Effect{Kind: behaviour.Types, Text: "Süderhaff <3\n"},
	}
	for _, c := range []struct {
		to interface {
			mechanism.Place
			Facts() mechanism.Facts
		}
		b    mechanism.Binding
		fits bool
	}{
		{hotkeys.Mechanism{}, sample.Act(keys.Ctrl|keys.Alt, "KeyO", "overview"), true},
		{menukeys.Mechanism{}, item, true}, {menukeys.Mechanism{}, inside, false}, {texts.Mechanism{}, word, true},
	} {
		c.b.Everyone = true
		offer := c.to.Take(m, c.b)
		require.Equal(t, c.fits, offer.ForAll, "%s: %s", c.b, offer.Why)
		if c.fits {
			assert.Equal(t, mechanism.Limited, offer.Verdict)
			assert.False(t, offer.Else.ForAll)
		}
		out, err := mechanism.Write(c.to, m, []mechanism.Binding{c.b})
		require.NoError(t, err)
		folder := fstest.MapFS{}
		for _, f := range out.Files() {
			folder[f.Path] = &fstest.MapFile{Data: f.Data}
		}
		assert.Equal(t, c.fits, folder[c.to.Facts().Name+"/everyone.mobileconfig"] != nil)
		got, err := c.to.Read(m, folder)
		require.NoError(t, err)
		var found bool
		for _, b := range got {
			found = found || b.Place() == c.b.Place() && b.Effect.Equal(c.b.Effect)
		}
		assert.True(t, found, "%s in %v", c.b, got)
		user := *m.Machine
		user.Admin = false
		u := *m
		u.Machine = &user
		assert.False(t, c.to.Take(&u, c.b).ForAll)
	}
}

func FuzzForced(f *testing.F) {
	f.Add(
		[]byte(
			`{PayloadType = Configuration; PayloadContent = ({PayloadType = "com.apple.ManagedClient.preferences"; PayloadContent = {tide = {Forced = ({mcx_preference_settings = {a = 1;};});};};});}`,
		),
	)
	f.Fuzz(func(t *testing.T, text []byte) { _, _ = profile.Forced(text) })
}
