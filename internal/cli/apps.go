package cli

import (
	"errors"
	"fmt"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"strings"

	"github.com/spf13/cobra"

	"leitstand/core/host"
	"leitstand/core/report"
)

func (a *app) apps() *cobra.Command {
	var try bool
	c := &cobra.Command{
		Use:   "apps [WORD]",
		Args:  cobra.MaximumNArgs(1),
		Short: "List the programs of this machine, spelled as a mapping names them",
		Long: `Lists the programs of this machine that its desktop shows, spelled as a mapping names them.
WORD limits the list to programs with it in their name or command, and adds commands that
begin with it. --try starts the program if only one is found.`,
		Example: "  leitstand apps term\n  leitstand apps xterm --try",
		RunE: func(_ *cobra.Command, args []string) error {
			if runtime.GOOS != "linux" {
				return errors.New("the programs of this system are not listed yet")
			}
			word := strings.Join(args, "")
			list := host.Apps(folders(dataDirs(), "applications"), folders(filepath.SplitList(os.Getenv("PATH")), ""), word)
			if len(list) == 0 {
				return fmt.Errorf("no program of this machine has %q in its name", word)
			}
			if try {
				return tryApp(list, word)
			}
			said := report.AppsOf(list)
			return a.say(said, func() { a.text.Apps(said) })
		},
	}
	a.formatFlag(c)
	c.Flags().BoolVar(&try, "try", false, "start the one that is found")
	return c
}

// dataDirs are the folders of programs' data, the user's first. (The XDG Base Directory specification.)
func dataDirs() []string {
	own := os.Getenv("XDG_DATA_HOME")
	if home, err := os.UserHomeDir(); own == "" && err == nil {
		own = filepath.Join(home, ".local/share")
	}
	all := os.Getenv("XDG_DATA_DIRS")
	if all == "" {
		all = "/usr/local/share:/usr/share"
	}
	return append([]string{own}, filepath.SplitList(all)...)
}

func folders(dirs []string, below string) (list []fs.FS) {
	for _, d := range dirs {
		if d != "" {
			list = append(list, os.DirFS(filepath.Join(d, below)))
		}
	}
	return list
}

// tryApp starts the one program that is found, or that has just the name.
func tryApp(list []host.App, word string) error {
	for _, a := range list {
		if a.ID == word {
			list = []host.App{a}
		}
	}
	if len(list) > 1 {
		return fmt.Errorf("%d programs have %q in their names; say one of them", len(list), word)
	}
	words := []string{list[0].ID}
	if list[0].Line != "" {
		words = []string{"gtk-launch", list[0].ID}
	}
	cmd := exec.Command(words[0], words[1:]...)
	detach(cmd)
	return cmd.Start()
}
