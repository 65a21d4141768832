package install

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"leitstand/core/change"
)

// Trial is what is put back unless it is confirmed.
type Trial struct {
	// Until is when it is put back; zero where it waits for the next log-in, at which somebody is asked.
	Until time.Time     `json:"until,omitzero"`
	For   time.Duration `json:"for"`             // how long it lasts, in nanoseconds
	Login bool          `json:"login,omitempty"` // some of it takes effect at log-in only, and is tried then
	Kept  bool          `json:"kept,omitempty"`  // what takes effect at once has been kept
	Steps []Step        `json:"steps"`           // that were done
	Was   Installed     `json:"was"`
	Mark  string        `json:"mark,omitempty"` // as of Begun
}

// Over says whether it is to be put back at a time.
func (t *Trial) Over(now time.Time) bool { return !t.Until.IsZero() && !now.Before(t.Until) }

// own is who makes the changes that are for leitstand itself.
const own = "leitstand"

// jobFile is what desktops start at log-in. (The Desktop Application Autostart specification.)
const jobFile = "~/.config/autostart/leitstand-trial.desktop"

// restoreEntryFile is an entry of the desktop's menu.
const restoreEntryFile = "~/.local/share/applications/leitstand-restore.desktop"

// LoginJob is what asks after the next log-in whether a trial is kept.
func LoginJob(program string) Item {
	return Item{By: own, Change: change.File{
		About: change.About{Says: "Ask after the next log-in whether the mapping is kept."},
		Path:  jobFile,
		Data: entry(
			"Ask whether the keyboard mapping is kept",
			program,
			"keep --at-login",
			"X-GNOME-Autostart-enabled=true\n",
		),
	}}
}

// RestoreEntry is an entry of the desktop's menu that takes all back, for the pointer: no key is needed.
func RestoreEntry(program string) Item {
	return Item{By: own, Change: change.File{
		About: change.About{Says: "Put an entry into the menu that takes the mapping back, for the pointer."},
		Path:  restoreEntryFile,
		Data:  entry("Take back the keyboard mapping", program, "restore --yes", "Categories=Settings;\n"),
	}}
}

// entry is a desktop entry. (The Desktop Entry specification.)
func entry(name, program, words, more string) []byte {
	quoted := `"` + strings.NewReplacer(`\`, `\\\\`, `"`, `\\"`, "`", "\\\\`", `$`, `\\$`, `%`, `%%`).
		Replace(program) +
		`"`
	return fmt.Appendf(nil, "[Desktop Entry]\nType=Application\nName=%s\nExec=%s %s\nTerminal=false\n%s", name, quoted,
		words, more)
}

// AtLogin says whether some of what is written takes effect at log-in only.
func (p *Plan) AtLogin() bool {
	return slices.ContainsFunc(p.Takes(), func(t Taking) bool {
		return strings.Contains(t.When, "log") && !strings.Contains(t.When, "at once")
	})
}

// Keep ends a trial: what is in place stays. One of which some takes effect at log-in is kept until then, when somebody
// is asked, which it says; kept once more, or after the log-in, it stays.
func (i Installer) Keep(j *Journal, afterLogin bool) (asks bool, err error) {
	if j.Trial.Login && !afterLogin && !j.Trial.Kept {
		j.Trial.Until, j.Trial.Kept = time.Time{}, true
		return true, j.save(i.Book)
	}
	j.Trial = nil
	if err := j.save(i.Book); err != nil {
		return false, err
	}
	// Nobody needs to be asked any more.
	want := Wanted{Installed: j.again()}
	want.Items = slices.DeleteFunc(slices.Clone(want.Items), func(i Item) bool {
		f, ok := i.Change.(change.File)
		return ok && f.Path == jobFile
	})
	if len(want.Items) == len(j.Items) {
		return false, nil
	}
	plan, err := Make(i.Machine, j.Installed, want)
	if err != nil {
		return false, err
	}
	return false, i.Carry(j, plan, Terms{})
}

// Prolong has a trial that waited for a log-in last from a time on.
func (i Installer) Prolong(j *Journal, now time.Time) error {
	j.Trial.Until = now.Add(j.Trial.For).Round(0)
	return j.save(i.Book)
}

// Terms are those of a trial; none is for good.
type Terms struct {
	Until time.Time     `json:"until"`
	For   time.Duration `json:"for"`
	Login bool          `json:"login,omitempty"` // somebody is asked after the next log-in, too
}
