package station_test

import (
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/behaviour"
	"leitstand/core/compile"
	"leitstand/core/desktop"
	"leitstand/core/keys"
	"leitstand/core/station"
	"leitstand/internal/sample"
)

// Whatever the mapping: what lands is what a press does; who has a chord, by the list of chords, has
// it when it is pressed, and nobody else; and strokes that are played do what is said of them.
func TestAnswersAgree(t *testing.T) {
	sample.Anew(t, 600)
	asked := map[string]int{}
	pressable := slices.Concat(desktop.Pressable(), keys.Buttons(), keys.Buttons(), keys.Buttons())
	rapid.Check(t, func(t *rapid.T) {
		d := sample.Mapping(t)
		mp, text := d.Mapping, d.Text
		if d.Wrong != "" || d.Found.HasErrors() {
			return
		}
		builds, diags, err := compile.All(mp, nil, nil)
		require.NoError(t, err)
		if diags.HasErrors() {
			return
		}
		list, err := station.All(mp, builds)
		require.NoError(t, err)
		for i, s := range list {
			b := builds[i]
			taken := station.Chords([]*station.Station{s}, make([]keys.Mods, 1))
			for _, l := range b.Landings {
				c := l.Binding.Chord
				if l.Binding.Level != behaviour.Hotkey || l.Mechanism == nil || len(l.Binding.Then) > 0 ||
					c.Key == keys.None ||
					c.Mods == 0 {
					continue
				}
				a := one(t, s, c)
				if a.Does == "cannot be pressed" {
					asked["cannot be pressed"]++
					continue
				}
				asked["landed"]++
				require.Equal(t, l.Written().Effect.String(), a.Does, "%s on %s: %v\n%s", c, b.Machine.Name, a, text)
				require.Equal(t, l.Rule, a.Rule)
			}
			for range 8 {
				c := keys.Chord{
					Mods: rapid.SampledFrom(station.UsualMods[:4]).Draw(t, "modifiers"),
					Key:  rapid.SampledFrom(pressable).Draw(t, "key"),
				}
				a := one(t, s, c)
				has := slices.ContainsFunc(taken, func(x station.Taken) bool { return x.Chord.Overlaps(c) })
				if a.Does == "cannot be pressed" || strings.HasPrefix(a.Does, "nothing here") ||
					strings.HasPrefix(a.Does, "begins ") {
					continue
				}
				require.Equal(t, has, a.Owner.Name != "", "%s on %s: %v\n%s", c, b.Machine.Name, a, text)
				played, err := s.Play(c.String(), station.Where{})
				require.NoError(t, err)
				var sees []string
				for _, m := range played.Moments {
					sees = append(sees, m.Sees...)
				}
				reaches := slices.ContainsFunc(
					sees,
					func(what string) bool { return what == c.Key.String()+" down" || what == c.Key.String()+" tapped" },
				)
				require.Equal(
					t, strings.HasPrefix(a.Does, "goes to the program"), reaches && a.Owner.Name == "",
					"%s on %s: %v, played %v\n%s", c, b.Machine.Name, a, sees, text,
				)
				asked[map[bool]string{true: "taken", false: "free"}[has]]++
			}
		}
	})
	for _, what := range []string{"landed", "taken", "free"} {
		require.Greater(t, asked[what], 20, what)
	}
	t.Log(asked)
}

func one(t *rapid.T, s *station.Station, c keys.Chord) station.Answer {
	answers, err := s.Ask(c.String(), station.Where{})
	require.NoError(t, err)
	return answers[0]
}
