// Package audit looks over a resolved mapping for what its user would regret:
// keys that nobody can press any more, chords that the system keeps for itself or
// that type a character, launches that end the session by one slip.
package audit

import (
	"slices"

	"leitstand/core/diag"
	"leitstand/core/mapping"
)

// Finding is one kind of finding.
type Finding struct {
	Code     string
	Severity diag.Severity
	Title    string // one line
	About    string // what it means, why it matters, what to do
}

// Catalogue lists every finding, in the order of the reference.
var Catalogue = []Finding{
	{"unavailable", diag.Warning, "nothing does what a rule says on a machine",
		"Either the system cannot do it, or we do not write it yet: the words behind it say which. Scope the rule to machines " +
			"that can have it, give it a fallback, or allow the finding, which allows needs-agent as well."},
	{"needs-agent", diag.Warning, "only a running process could do what a rule says on a machine",
		"No file of the system's own can do it. Scope the rule to machines that can have it, give it a fallback, or allow the " +
			"finding."},
	{"fallback", diag.Note, "a fallback stands in for what the rule asks for",
		"The machine cannot have what the rule asks for first, and has what the rule says for that case. The table " +
			"counts the rule by what it asks for; --strict refuses a fallback in use. Scope the rule to machines " +
			"that can have the first, or allow the finding."},
	{"below-need", diag.Error, "the verdict is worse than the rule needs",
		"The rule says with need which verdict it needs at least, and the machine has a worse one: the words behind it say why. " +
			"Scope the rule to machines that can, or take the need out."},
	{"set-twice", diag.Error, "a native setting is set by another rule",
		"A native setting names a value that a rule of the mapping needs to have otherwise, so that only one of " +
			"the two could hold. Leave the native setting out, or the rule."},
	{"told-apart", diag.Error, "a desktop cannot tell two chords apart",
		"The desktop goes by what keys type, and the keys of the two chords type the same under the machine's " +
			"layout: F13 and MediaSelect do, and the two keys with < on some boards. It would do the same for " +
			"both. Use another chord for one of them, or scope one away from the machine."},
	{"lost-key", diag.Warning, "no key is left for something one needs",
		"Escape, Enter, Tab, Backspace, Space, a letter or a digit cannot be typed any more on this machine: the " +
			"key that gave it means something else now, and no other key gives it. Log-in screens, password fields " +
			"and rescue shells need these. Put it on another key."},
	{"lost-modifier", diag.Warning, "no key is left that acts as a modifier",
		"No key of the machine acts as Ctrl, Alt, Shift or Meta any more, so no chord with it can be pressed. " +
			"Leave one of the two keys of the modifier as it is, or put the modifier on another key."},
	{"lost-character", diag.Warning, "characters can no longer be typed",
		"A key that types characters under the machine's layout means something else now, and no other key types " +
			"them: an ISO board's key beside the left Shift often has < and >. Put them on another key, or into " +
			"a layer."},
	{"option-lost", diag.Warning, "a rule takes a key from an option",
		"The machine has an option of XKB, such as compose:caps, that gives the key a meaning, and a rule gives it " +
			"another. The rule wins, and what the option was for is gone. Leave the key to the option, or take the " +
			"option out."},
	{"system-keeps", diag.Warning, "the system keeps this chord for itself",
		"The system or the desktop acts on the chord before any rule can: it switches consoles, locks the screen, " +
			"ends the session. What the rule says will not happen, or will happen beside that. Use another chord."},
	{"taken", diag.Warning, "the desktop uses this chord",
		"The desktop has this chord for something of its own, as long as nobody has changed that. Which of the two " +
			"acts is a matter of luck. Use another chord, which `leitstand chords --free` lists, or say override = " +
			"true: the chord is meant for this rule."},
	{"types-character", diag.Warning, "the chord types a character",
		"Pressed on the machine's layout, the chord types a character, which the rule would take from every " +
			"program: a letter alone or with Shift, or AltGr with a key. On Windows, Ctrl+Alt is AltGr. Use a " +
			"chord with Ctrl, Alt or Meta that types nothing."},
	{"ends-session", diag.Warning, "a single press ends the session or loses data",
		"The rule powers off, restarts, logs out or deletes by a key that is easily hit by accident, without a " +
			"question. Add a modifier or two, or confirm = true."},
	{"unreachable", diag.Warning, "the chord cannot be pressed",
		"No key of the machine gives the chord's key, or one of its modifiers: the keys are switched off, " +
			"remapped, broken, or the board lacks them. Use another chord, or leave a key that gives it."},
	{"no-shell", diag.Warning, "a sign that only a shell knows",
		"A program is started with its arguments as they are written: no shell looks at them, so a $ or a pipe " +
			"stands for itself. A ~ at the beginning of a word is your home folder all the same. For more, start a " +
			"shell with the line as its argument."},
	{"no-address", diag.Warning, "what is opened is neither an address nor a path",
		"What a launch opens is a web address, with its scheme in front, or a file, with its path from the root or " +
			"the home folder on. Anything else would be looked for in the folder where the desktop was started, or " +
			"nowhere."},
	{"no-program", diag.Warning, "a program that is not on this machine",
		"The mapping is checked on the machine itself, which is the one of the host's name or the only one there " +
			"is, and the program that the rule starts is not on its search path. The press would do nothing. " +
			"Install the program, or name it by its whole path."},
	{"no-such-character", diag.Warning, "no key types the character that names a key",
		"A chord names its key by a character, and no key of the machine types that under its layout, so the rule " +
			"is not done there. Name the key by its code, which `leitstand keys` lists, or scope the rule to " +
			"machines whose layout has the character."},
	{"hidden-modifier", diag.Warning, "the character that names a key needs a modifier",
		"A chord names its key by a character that is typed with Shift or AltGr under the machine's layout, so the " +
			"chord would need a modifier that it does not name, and the rule is not done there. Write it with the " +
			"modifier, as the finding proposes, or name the key by its code."},
	{"unused-board", diag.Warning, "a board that no machine has",
		"The board is defined, and no machine names it, so rules scoped to it hold nowhere. Add it to the boards " +
			"of a machine, or take it out."},
	{"no-machine", diag.Warning, "a rule that holds on no machine",
		"The scope of the rule, or the system that its native settings are for, fits none of the machines that the " +
			"mapping defines, so the rule does nothing. Widen the scope, add the machine, or allow the finding if " +
			"the machine is still to come."},
	{"convention", diag.Note, "programs use this chord for something usual",
		"Many programs have the same meaning for this key: F1 help, F2 rename, F5 reload, F10 the menu, F11 full " +
			"screen, Ctrl+C copy. The rule takes it from them."},
	{"takes-effect", diag.Note, "when the change takes effect",
		"The files of a mechanism are read at a certain time only: at log-in, or when the machine starts. Until " +
			"then the old mapping holds."},
	{"needs-rights", diag.Note, "what needs an administrator",
		"The files of a mechanism belong in the system's own folders or registry, where only an administrator may " +
			"write, and hold for every user of the machine. With rights = \"user\" in the machine's block the next " +
			"best way is taken."},
	{"layout-assumed", diag.Note, "a layout that is known from another system",
		"What keys type under this layout on this system is not in our list, so that what Linux types under the " +
			"layout of that name is taken for it. Letters and digits are mostly alike; signs and what AltGr or " +
			"Option give are often not. A chord whose key is named by a sign may be another key there: name it by " +
			"its code."},
	{"not-everywhere", diag.Note, "where the mapping does not hold",
		"Some mechanisms belong to a user's session: on the log-in screen, on the text console or in a virtual " +
			"machine the keys are as they were."},
}

// Find finds a kind of finding by its code.
func Find(code string) (Finding, bool) {
	for _, f := range Catalogue {
		if f.Code == code {
			return f, true
		}
	}
	return Finding{}, false
}

// Allowable says whether a rule may allow the finding.
func (f Finding) Allowable() bool { return slices.Contains(mapping.Findings, f.Code) }

// Codes lists the codes of the catalogue.
func Codes() []string {
	codes := make([]string, len(Catalogue))
	for i, f := range Catalogue {
		codes[i] = f.Code
	}
	return codes
}
