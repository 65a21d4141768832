package install_test

import (
	"fmt"
	"maps"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"leitstand/core/change"
	"leitstand/core/install"
	"leitstand/internal/sample"
)

// Whoever of several users installs and restores, and in whatever order: a machine-wide file has what those want who have
// installed, nothing of those who have restored, and what it had before when the last one restores.
func TestUsersOfOneMachine(t *testing.T) {
	sample.Checks(200)
	const hwdb, profile = "/etc/udev/hwdb.d/90-leitstand.hwdb", "/etc/dconf/profile/user"
	rapid.Check(t, func(rt *rapid.T) {
		m := newMemory()
		if rapid.Bool().Draw(rt, "had a database") {
			m.files[hwdb] = install.File{Data: []byte("# the office's own\n"), Mode: 0o640, UID: 0, GID: 4, Owned: true}
		}
		m.files[profile] = install.File{Data: []byte("user-db:user\n"), Mode: 0o644}
		had := m.snapshot()
		users := []string{"1000", "1001", "0"}
		books := map[string]*memory{}
		for _, u := range users {
			books[u] = newMemory()
		}
		wants := map[string]string{} // what each user has installed
		for range rapid.IntRange(1, 12).Draw(rt, "steps") {
			user := rapid.SampledFrom(users).Draw(rt, "user")
			text := rapid.SampledFrom([]string{"", "Escape", "Hyper"}).Draw(rt, "wants")
			m.user = user
			s, err := install.Begin(install.Installer{Machine: m, Book: books[user]}, now, func() (func(), error) {
				return func() {}, nil
			})
			require.NoError(rt, err)
			var list []install.Item
			delete(wants, user)
			if text != "" {
				wants[user] = text + " of " + user + "\n"
				about := change.About{Everyone: true}
				list = items("hwdb", change.File{About: about, Path: hwdb, Data: []byte(wants[user])},
					change.Line{About: about, Path: profile, Text: strings.TrimSuffix(wants[user], "\n")},
					change.Line{About: about, Path: profile, Text: "system-db:local"})
			}
			plan, err := s.Plan(installed(list))
			require.NoError(rt, err)
			require.Empty(rt, plan.Drift, "nobody else has changed anything")
			if rapid.Bool().Draw(rt, "by an administrator") { // who runs the script later
				_, everyone := plan.Split()
				plan.LeaveEveryone(s.Journal.Installed)
				require.NoError(rt, s.Carry(s.Journal, plan, install.Terms{}))
				for _, step := range everyone {
					for _, w := range step.Writes {
						if m.files[w.Path] = w.To.File; w.To.File.Data == nil {
							delete(m.files, w.Path)
						}
					}
				}
				s, err = install.Begin(s.Installer, now, func() (func(), error) { return func() {}, nil })
				require.NoError(rt, err)
			} else {
				require.NoError(rt, s.Carry(s.Journal, plan, install.Terms{}))
			}
			if text == "" {
				require.Nil(rt, books[user].book, "nothing is left of what %s had", user)
			}
			again, err := s.Plan(installed(list))
			require.NoError(rt, err)
			require.True(rt, again.Empty(), "%v", again.Steps)
			drifted, err := s.Drifted()
			require.NoError(rt, err)
			require.True(rt, drifted.Empty(), "%v", drifted.Steps)

			if len(wants) == 0 {
				m.folders = map[string]bool{"~/.config": true} // one that others used longer is nobody's to remove
				require.Equal(rt, had, m.snapshot())
				continue
			}
			require.Contains(rt, slices.Collect(maps.Values(wants)), string(m.files[hwdb].Data))
			lines := strings.Split(strings.TrimSuffix(string(m.files[profile].Data), "\n"), "\n")
			want := []string{"user-db:user", "system-db:local"}
			for _, w := range wants {
				want = append(want, strings.TrimSuffix(w, "\n"))
			}
			require.ElementsMatch(rt, want, lines, fmt.Sprint(wants))
		}
	})
}

// A record that somebody else could have written is not used.
func TestRecordThatIsNoAdministrators(t *testing.T) {
	m := newMemory()
	m.user = "1000"
	m.files["/var/lib/leitstand/etc%leitstand%console.map/before"] = install.File{
		Data: []byte(`{}`), Mode: 0o644, UID: 1001, Owned: true,
	}
	list := items("console", change.File{
		About: change.About{Everyone: true}, Path: "/etc/leitstand/console.map", Data: []byte("x"),
	})
	_, err := begin(t, m).Plan(installed(list))
	require.ErrorContains(t, err, "is no administrator's")
}
