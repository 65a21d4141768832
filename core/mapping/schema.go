package mapping

import "slices"

// form is the shape an attribute's value must have.
type form uint8

const (
	formText     form = iota // "one string"
	formTexts                // ["several", "strings"], or one alone
	formNumber               // 1
	formBool                 // true or false
	formCommand              // "program", or ["program", "argument"]
	formPairs                // { KeyA = "KeyB" }
	formBySystem             // "Ctrl+Alt", or { windows = "Ctrl+Alt", other = "Hyper" }
	formSteps                // [{ press = "Ctrl+s" }, { text = let.sig }], or one alone
	formRows                 // { CapsLock = "Escape" }, a rule a row
	formRow                  // what stands behind the name of a row, without braces
	formAny                  // looked at by the block itself
)

var formWords = map[form]string{
	formText:    "one string in quotes",
	formTexts:   "a string in quotes, or a list of them in brackets",
	formNumber:  "a whole number",
	formBool:    "true or false",
	formCommand: "a program in quotes, or a list of program and arguments in brackets",
	formBySystem: "modifiers in quotes, or those of each system in braces, such as { windows = \"Ctrl+Alt\", other " +
		"= \"Hyper\" }",
	formSteps: "a list of steps in brackets, such as [{ press = \"Ctrl+s\" }, { text = \"done\" }]",
	formAny:   "a text, a number, true, false or a list, written out",
	formPairs: "pairs of a name and a value, such as { name = \"value\" }",
	formRow:   "a key, a chord or a character in quotes, \"off\", or one thing in braces, such as { does = \"…\" }",
	formRows:  "rows in braces, such as { CapsLock = \"Escape\" }",
}

// attribute is one "name = value" that a block may hold.
type attribute struct {
	name string
	form form
}

// schema is what a block of one type may hold. The loader refuses everything
// else, and the language reference is held against it.
type schema struct {
	typ       string
	labels    [2]int // at least, at most
	labelWord string // what a label is: "name", "key", "chord"
	attrs     []attribute
	open      bool     // every attribute name is allowed
	rule      bool     // takes the attributes that all rules share
	gives     bool     // takes them for the rules in it
	blocks    []string // the blocks it may hold; "rules" stands for rules, on and group
	example   string   // a block of this type as it should look
	// former are attributes by names that they had, with those that they have.
	former map[string]string
	// formerTables are attributes in which rules stood as rows, and row is one as it stands in keys.
	formerTables []string
	row          string
}

// ruleAttrs are what every rule takes.
var ruleAttrs = []attribute{
	{"on", formTexts}, {"except", formTexts}, {"why", formText}, {"enabled", formBool}, {"need", formText},
	{"override", formBool}, {"everyone", formBool}, {"in_front", formTexts}, {"allow", formTexts},
}

var formerRuleAttrs = map[string]string{"apps": "in_front", "takes": "override"}

const many = 99

var schemas = []*schema{
	{typ: "machine", labels: [2]int{1, 1}, labelWord: "name", attrs: []attribute{
		{
			"system",
			formText,
		}, {"version", formText}, {"desktop", formText}, {"desktop_version", formText}, {"session", formText},
		{
			"layouts",
			formTexts,
		}, {"options", formTexts}, {"boards", formTexts}, {"rights", formText}, {"allow", formTexts}, {"hosts", formTexts},
		{"layout_library", formBool}, {"keyboard_filter", formBool}, {"system_layouts", formPairs},
	}, example: `machine "office" { system = "linux" }`},
	{typ: "board", labels: [2]int{1, 1}, labelWord: "name", attrs: []attribute{
		{
			"ids",
			formTexts,
		}, {"shape", formTexts}, {"legends", formText}, {"lacks", formTexts}, {"broken", formTexts}, {"sends", formPairs},
	}, example: `board "chart-table" { ids = ["usb:1209:0001"] }`, former: map[string]string{"caps": "legends"}},
	{typ: "modifier", labels: [2]int{1, 1}, labelWord: "name", attrs: []attribute{
		{
			"linux",
			formText,
		}, {"macos", formText}, {"windows", formText}, {"ipados", formText}, {"chromeos", formText}, {"other", formText},
	}, example: `modifier "Desk" { other = "Meta" }`},
	{typ: "app", labels: [2]int{1, 1}, labelWord: "name", attrs: []attribute{
		{"linux", formCommand}, {"macos", formCommand}, {"windows", formCommand},
		{"ipados", formCommand}, {"chromeos", formCommand},
	}, example: `app "terminal" { linux = "xterm" }`},
	{typ: "let", open: true, example: `let { station = "Süderhaff 3" }`},
	{
		typ:       "on",
		labels:    [2]int{1, many},
		labelWord: "system, desktop, machine or board",
		attrs:     []attribute{{"keys", formRows}},
		gives:     true,
		blocks:    []string{"rules"},
		example:   `on "macos" { … }`,
	},
	{
		typ:       "group",
		labels:    [2]int{1, 1},
		labelWord: "name",
		attrs:     []attribute{{"keys", formRows}, {"file", formText}, {"shares", formTexts}},
		gives:     true,
		blocks:    []string{"rules"},
		example:   `group "launchers" { … }`,
	},
	{typ: "hands", rule: true, attrs: []attribute{{"order", formTexts}, {"primary", formText}, {"sides", formText}},
		example: `hands { order = ["Ctrl", "Alt", "Meta"] }`},
	{typ: "swap", labels: [2]int{2, 2}, labelWord: "key", rule: true, example: `swap "AltLeft" "MetaLeft" {}`},
	{typ: "hyper", labels: [2]int{1, 1}, labelWord: "key", rule: true, attrs: []attribute{
		{"tap", formText}, {"within", formText}, {"as", formBySystem}, {"fallback", formText}, {"instead", formText},
	}, example: `hyper "CapsLock" {}`},
	{
		typ:          "remap",
		labels:       [2]int{1, 1},
		labelWord:    "key or chord",
		rule:         true,
		formerTables: []string{"to"},
		row:          `CapsLock = "Escape"`,
		attrs: []attribute{
			{"to", formText}, {"tap", formText}, {"hold", formText}, {"within", formText}, {"fallback", formText},
		},
		example: `remap "CapsLock" { to = "Escape" }`,
	},
	{
		typ:          "disable",
		labels:       [2]int{1, many},
		labelWord:    "key or chord",
		rule:         true,
		formerTables: []string{"keys"},
		row:          `Insert = "off"`,
		example:      `disable "Insert" {}`,
	},
	{
		typ:          "launch",
		labels:       [2]int{1, 1},
		labelWord:    "chord",
		rule:         true,
		formerTables: []string{"app", "run", "open"},
		row:          `"Hyper+t" = { app = "terminal" }`,
		attrs: []attribute{
			{
				"app",
				formText,
			}, {"run", formCommand}, {"open", formText}, {"dir", formText}, {"fallback", formTexts}, {"confirm", formBool},
		},
		example: `launch "Ctrl+Alt+t" { app = "terminal" }`,
	},
	{
		typ:          "action",
		labels:       [2]int{1, 1},
		labelWord:    "chord",
		rule:         true,
		formerTables: []string{"does"},
		row:          `"Meta+q" = { does = "close" }`,
		attrs:        []attribute{{"does", formText}, {"confirm", formBool}, {"fallback", formTexts}},
		example:      `action "Meta+ArrowLeft" { does = "tile-left" }`,
	},
	{
		typ:          "menu",
		labels:       [2]int{1, 1},
		labelWord:    "chord",
		rule:         true,
		formerTables: []string{"item"},
		row:          `"Ctrl+Alt+e" = { item = ["File", "Export…"] }`,
		attrs:        []attribute{{"item", formTexts}, {"fallback", formTexts}},
		example:      `menu "Ctrl+Alt+e" { item = ["File", "Export…"] }`,
	},
	{typ: "layer", labels: [2]int{1, 1}, labelWord: "name", rule: true, attrs: []attribute{
		{
			"while",
			formText,
		}, {"toggle", formText}, {"once", formText}, {"tap", formText}, {"within", formText}, {"leave", formText}, {"others", formText}, {"fallback", formText},
		{"keys", formRows},
	}, example: `layer "arrows" { … }`, former: map[string]string{"hold": "while", "switch": "toggle"}},
	{
		typ:          "snippet",
		labels:       [2]int{1, 1},
		labelWord:    "chord",
		rule:         true,
		formerTables: []string{"text"},
		row:          `F7 = { text = "…" }`,
		attrs:        []attribute{{"text", formText}, {"fallback", formTexts}},
		example:      `snippet "F7" { text = "…" }`,
	},
	{
		typ:       "abbreviation",
		labels:    [2]int{1, 1},
		labelWord: "text that is typed",
		rule:      true,
		attrs:     []attribute{{"text", formText}, {"end", formText}, {"case", formText}},
		example:   `abbreviation ";nhn" { text = "…" }`,
	},
	{
		typ:          "macro",
		labels:       [2]int{1, 1},
		labelWord:    "chord",
		rule:         true,
		formerTables: []string{"steps"},
		row:          `F8 = { steps = [{ press = "Ctrl+s" }] }`,
		attrs:        []attribute{{"steps", formSteps}, {"fallback", formTexts}},
		example:      `macro "F8" { steps = [{ press = "Ctrl+s" }, { text = "done" }] }`,
		former:       map[string]string{"do": "steps"},
	},
	{typ: "repeat", rule: true, attrs: []attribute{
		{"delay", formText}, {"rate", formNumber}, {"accents", formBool}, {"never", formTexts}, {"always", formTexts},
	}, example: `repeat { delay = "220ms" }`},
	{
		typ:       "native",
		labels:    [2]int{1, 1},
		labelWord: "system or desktop",
		rule:      true,
		attrs:     []attribute{{"settings", formPairs}},
		example:   `native "macos" { settings = { "com.apple.dock autohide" = true } }`,
	},
}

// keysSchema is what a table is read as.
var keysSchema = &schema{typ: "keys", open: true, example: `keys = { CapsLock = "Escape" }`}

// topAttrs are the attributes outside all blocks.
var topAttrs = []attribute{{"version", formNumber}, {"keys", formRows}}

func schemaOf(typ string) *schema {
	for _, s := range schemas {
		if s.typ == typ {
			return s
		}
	}
	return nil
}

// holdsRules says whether the block is one that rules stand in.
func (s *schema) holdsRules() bool { return slices.Contains(s.blocks, "rules") }

// shared are the attributes that the block has beside its own.
func (s *schema) shared() []attribute {
	if s.rule || s.gives {
		return ruleAttrs
	}
	return nil
}

func (s *schema) attr(name string) (attribute, bool) {
	for _, list := range [...][]attribute{s.attrs, s.shared()} {
		for _, a := range list {
			if a.name == name {
				return a, true
			}
		}
	}
	return attribute{}, false
}

// renamed is what an attribute is called that had another name once.
func (s *schema) renamed(name string) (string, bool) {
	if now, ok := formerRuleAttrs[name]; ok && (s.rule || s.gives) {
		return now, true
	}
	now, ok := s.former[name]
	return now, ok
}

func (s *schema) attrNames() []string {
	var names []string
	for _, a := range slices.Concat(s.attrs, s.shared()) {
		names = append(names, a.name)
	}
	return names
}

func blockNames() []string {
	names := make([]string, len(schemas))
	for i, s := range schemas {
		names[i] = s.typ
	}
	return names
}
