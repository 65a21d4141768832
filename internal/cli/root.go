// Package cli is the command line: it turns flags into one call of the core,
// and what comes back into text. It computes nothing itself.
package cli

import (
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"runtime"
	"runtime/debug"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"leitstand/core/diag"
	"leitstand/core/folder"
	"leitstand/core/host"
	"leitstand/core/install/live"
	"leitstand/core/machine"
	"leitstand/core/mapping"
	"leitstand/core/mechanism"
	"leitstand/core/report"
	"leitstand/core/report/text"
)

// Exit codes of every command; diff gives 1 to mean different.
const (
	exitOK     = 0
	exitErrors = 1
	exitFailed = 2
)

// exit ends a command with a code after it has said what there is to say.
type exit struct{ code int }

func (e exit) Error() string { return fmt.Sprintf("exit %d", e.code) }

// app is what the commands share.
type app struct {
	stdout, stderr io.Writer
	text           *text.Printer // on stdout
	named          string        // -f
	format         string        // --format
	outside        bool          // --allow-outside
}

// Run runs the command line and returns the exit code. The version is asked for when a
// user wants to know it.
func Run(args []string, version func() string, stdout, stderr io.Writer) int {
	out := &checkedWriter{w: stdout}
	a := &app{stdout: out, stderr: text.Harmless{To: stderr}, text: printer(out, stdout)}
	root := a.root(version)
	root.SetArgs(args)
	root.SetOut(out)
	root.SetErr(a.stderr)
	err := root.Execute()
	stderr = a.stderr
	if out.err != nil { // what was not written was not said
		err = fmt.Errorf("the output cannot be written: %w", out.err)
	}
	var code exit
	switch {
	case err == nil:
		return exitOK
	case errors.As(err, &code):
		return code.code
	default:
		fmt.Fprintf(stderr, "leitstand: %s\n", sentence(err))
		return exitFailed
	}
}

func (a *app) root(version func() string) *cobra.Command {
	root := &cobra.Command{
		Use:   "leitstand",
		Short: "One keyboard mapping for every system you use",
		Long: `Describe your keyboard once. Leitstand configures Linux, macOS and Windows to match.

To see everything it does, without changing this machine:  leitstand demo

Commands read the mapping from --file. Without it, they read the file that
LEITSTAND_FILE names, or leitstand.hcl (or a folder leitstand) in the current folder
or in the folder of your configuration.`,
		Version:       "known when asked for",
		SilenceErrors: true,
		SilenceUsage:  true,
	}
	cobra.AddTemplateFunc("version", version)
	root.SetVersionTemplate("leitstand {{version}}\n")
	root.PersistentFlags().StringVarP(
		&a.named, "file", "f", "",
		"the mapping: a file, a folder of .hcl files, or - for standard input (default: leitstand.hcl, as it is found)",
	)
	root.PersistentFlags().BoolVar(
		&a.outside, "allow-outside", false, "let a group's file stand outside of the mapping's folder",
	)
	// The groups stand in the order of the work.
	for _, g := range []struct {
		title    string
		commands []*cobra.Command
	}{
		{"Begin", []*cobra.Command{a.demo(), a.initializing(), a.importing(), a.boards(), a.apps(), a.keys()}},
		{"Check", []*cobra.Command{a.validate(), a.formatting()}},
		{"Look and ask", []*cobra.Command{a.press(), a.draw(), a.chords(), a.report(), a.diff()}},
		{"Compile and install", []*cobra.Command{
			a.compile(), a.installing(), a.keeping(), a.status(), a.pausing(), a.resuming(), a.restoring(),
		}},
		{"More", []*cobra.Command{a.notices(), a.versionOf(version)}},
	} {
		root.AddGroup(&cobra.Group{ID: g.title, Title: g.title + ":"})
		for _, c := range g.commands {
			c.GroupID = g.title
			root.AddCommand(c)
		}
	}
	root.SetHelpCommandGroupID("More")
	root.SetCompletionCommandGroupID("More")
	cobra.EnableCommandSorting = false
	return root
}

// versionOf prints the version, as --version does.
func (a *app) versionOf(version func() string) *cobra.Command {
	return &cobra.Command{
		Use: "version", Args: cobra.NoArgs, Short: "Print the version and the commit that it was built from",
		RunE: func(*cobra.Command, []string) error {
			_, err := fmt.Fprintf(a.stdout, "leitstand %s\n", version())
			return err
		},
	}
}

// complain prints diagnostics where errors go.
func (a *app) complain(list diag.List) { a.text.To(a.stderr).Findings(list) }

// say prints what was found as JSON, or in lines for people.
func (a *app) say(value any, print func()) error {
	if a.format == "json" {
		return report.Write(a.stdout, value)
	}
	print()
	return nil
}

// formatFlag adds --format to a command that can write JSON, and more.
func (a *app) formatFlag(c *cobra.Command, more ...string) {
	formats := append([]string{"text", "json"}, more...)
	words := strings.Join(formats[:len(formats)-1], ", ") + " or " + formats[len(formats)-1]
	c.Flags().StringVar(&a.format, "format", "text", words)
	c.PreRunE = func(*cobra.Command, []string) error {
		if !slices.Contains(formats, a.format) {
			return fmt.Errorf("--format is %s, not %q", words, a.format)
		}
		return nil
	}
}

// machineFlag adds --machine, completed from the mapping.
func (a *app) machineFlag(c *cobra.Command, machines *[]string) {
	c.Flags().StringSliceVar(machines, "machine", nil, "only these machines, by their names")
	complete(c, "machine", func() []string {
		return a.names(func(m *mapping.Mapping) (list []string) {
			for _, machine := range m.Machines {
				list = append(list, machine.Name)
			}
			return list
		})
	})
}

// complete completes the values of a flag.
func complete(c *cobra.Command, flag string, values func() []string) {
	err := c.RegisterFlagCompletionFunc(
		flag,
		func(*cobra.Command, []string, string) ([]string, cobra.ShellCompDirective) {
			return values(), cobra.ShellCompDirectiveNoFileComp
		},
	)
	if err != nil {
		panic(err) // the flag has just been added
	}
}

// names are those of something in the mapping of -f, as far as it can be read.
func (a *app) names(of func(*mapping.Mapping) []string) []string {
	path, _ := a.found()
	mp, _, err := a.load(path)
	if err != nil {
		return nil
	}
	return of(mp)
}

// file is the mapping: the one of -f, or the one that is found, which is told where it is not in the folder at hand.
func (a *app) file() string {
	path, elsewhere := a.found()
	if a.named = path; elsewhere {
		fmt.Fprintf(a.stderr, "The mapping is %s.\n", path)
	}
	return path
}

// nameMapping takes the mapping from a command's only argument, if there is one; --file says the same.
func (a *app) nameMapping(args []string) error {
	if len(args) == 0 {
		return nil
	}
	if a.named != "" {
		return fmt.Errorf("name one mapping: %s, or --file %s", args[0], a.named)
	}
	a.named = args[0]
	return nil
}

// found is the mapping without a word.
func (a *app) found() (path string, elsewhere bool) {
	if a.named != "" {
		return a.named, false
	}
	config, err := os.UserConfigDir()
	if err != nil {
		config = ""
	}
	return host.FindMapping(os.Getenv, config, isMapping)
}

// isMapping says whether a path is a file, or a folder with files of a mapping in it.
func isMapping(path string) bool {
	info, err := os.Stat(path)
	if err != nil || !info.IsDir() {
		return err == nil
	}
	files, err := mappingFiles(path)
	return err == nil && len(files) > 0
}

// load reads a mapping from a path as the user wrote it.
func (a *app) load(path string) (*mapping.Mapping, diag.List, error) {
	return a.loadBeside(path, func([]*machine.Machine) {})
}

// loadBeside is load, with something done beside once the machines are known.
func (a *app) loadBeside(path string, beside func([]*machine.Machine)) (*mapping.Mapping, diag.List, error) {
	if path == "-" {
		return fromStandardInput(beside)
	}
	dir, name := filepath.Split(filepath.Clean(path))
	open := dir
	if open == "" {
		open = "."
	}
	if name == "." || name == ".." {
		dir, open, name = path, path, "."
	}
	if a.outside {
		whole, err := filepath.Abs(path)
		if err != nil {
			return nil, nil, err
		}
		open = filepath.VolumeName(whole) + string(filepath.Separator)
		dir, name = open, filepath.ToSlash(strings.TrimPrefix(whole, open))
	}
	roomFor(path)
	opened, err := mapping.Open(onDisk(open), name, filepath.ToSlash(dir))
	if mapping.IsMissing(err) {
		err = fmt.Errorf(
			"there is no mapping %s; name one with -f, or write a first one with a line such as: remap "+
				"\"CapsLock\" { to = \"Escape\" }",
			path,
		)
	}
	if err != nil {
		return nil, nil, err
	}
	go beside(opened.Machines())
	m, diags := opened.Mapping()
	return m, diags, nil
}

// roomFor lets a run with a very large mapping have more memory than others: collecting garbage would take most of its
// time otherwise.
func roomFor(path string) {
	const large, room = 1 << 20, 250 << 20
	if info, err := os.Stat(path); err == nil && info.Size() > large {
		debug.SetMemoryLimit(room)
	}
}

// standardInput is the name under which messages speak of a mapping read from there.
const standardInput = "standard-input.hcl"

// fromStandardInput reads a mapping from there, up to what a mapping may have.
func fromStandardInput(beside func([]*machine.Machine)) (*mapping.Mapping, diag.List, error) {
	read, err := io.ReadAll(io.LimitReader(os.Stdin, mapping.MaxSize+1))
	if err != nil {
		return nil, nil, err
	}
	opened, err := mapping.Open(mechanism.Folder{{Path: standardInput, Data: read}}, standardInput, "")
	if err != nil {
		return nil, nil, err
	}
	go beside(opened.Machines())
	m, diags := opened.Mapping()
	return m, diags, nil
}

// onDisk is a folder, of which devices and pipes are not opened.
func onDisk(dir string) fs.FS { return folder.Regular(os.DirFS(dir)) }

// here describes the machine the program runs on.
func here() *machine.Machine {
	m, _ := hereAndLeft()
	return m
}

// hereAndLeft describes the machine, and says what of it cannot be described.
func hereAndLeft() (m *machine.Machine, left []mechanism.Left) {
	m = host.Machine(os.DirFS("/"), os.Getenv, runtime.GOOS)
	if m.System == machine.Windows {
		system := onDisk(filepath.Join(os.Getenv("SystemRoot"), "System32"))
		left = host.WindowsLayouts(m, (&live.Machine{}).Get, system)
	}
	return m, left
}

// hostname is what the machine calls itself, without its domain; "" if it does not say.
func hostname() string {
	name, _ := os.Hostname()
	name, _, _ = strings.Cut(name, ".")
	return name
}

// has says whether the machine has a program.
func has(program string) bool {
	_, err := exec.LookPath(program)
	return err == nil
}

// sentence is an error as a person reads it.
func sentence(err error) string {
	var p *fs.PathError
	if errors.As(err, &p) {
		switch {
		case errors.Is(p, fs.ErrNotExist):
			return fmt.Sprintf("%s is not there", p.Path)
		case errors.Is(p, fs.ErrPermission):
			return fmt.Sprintf("%s: no permission to %s", p.Path, p.Op)
		}
	}
	return err.Error()
}
