package reason

// What holds on several systems.
var (
	NoHyper      = system("no-hyper", "{system} has no Hyper", "HID usage tables: no usage is Hyper")
	DoneBy       = system("done-by", "{system} does it by {chord}", "the list of chords that systems use")
	KeyActsForIt = system(
		"key-acts-for-it", "{key} acts as the key {other}, in chords, too", "the mechanisms that change keys",
	)
	OwnedBy = system(
		"owned-by",
		"{system} uses {chord} itself: it {does}",
		"the list of chords that systems use",
	)
	DoneSince = system(
		"done-since",
		"{system} does it from version {version} on",
		"the list of chords that systems use",
	)
	NoAccents          = system("no-accents", "{system} offers no accents for a held letter", "its settings")
	StockBut           = system("stock-but", "{difference}", "the list of chords that systems use")
	NoSettingThere     = system("no-setting-there", "{system} has no setting for it", "the panels of that system")
	NoProgramsThere    = system("no-programs-there", "{system} lets no program see the keyboard", "its rules for programs")
	ReplacementOneLine = system(
		"replacement-one-line", "a text replacement of iPadOS is one line, without tabs", "the panel of iPadOS",
	)
	BoardsNotTold = system(
		"boards-not-told", "on {system} only a driver, or a program with an entitlement of its maker, could change a key by the board that it comes from",
		"Microsoft: SetWindowsHookEx, raw input cannot hold keys back; Apple: CGEventTap, virtual HID needs an entitlement",
	)
	OnlyProcess = system("only-process", "only a running process can {what}", "no file of these systems says it")
	NoStore     = system(
		"no-store",
		"{desktop} has no store of settings: what its files say is said in its own configuration",
		"its manual",
	)
	AllKeysRepeat  = system("all-keys-repeat", "all keys repeat alike here", "the settings that the desktop has")
	AllBoardsAlike = system(
		"all-boards-alike", "the setting holds for all boards alike", "the settings that the desktop has",
	)
	NoQuestionAsked = system(
		"no-question-asked", "{mechanism} does it without the question that the rule asks for", pressed,
	)
	WithoutQuestion  = system("without-question", "without a question", pressed)
	QuestionByZenity = system("question-by-zenity", "zenity asks before it starts, and must be installed", pressed)
	NoSuchShortcut   = system(
		"no-such-shortcut",
		"{desktop} has no shortcut for {action}",
		"the list of its shortcuts",
	)
	NoSuchModifier       = system("no-such-modifier", "{who} know no {modifiers}", "the spelling of its chords")
	OnlyKeysAreShortcuts = system(
		"only-keys-are-shortcuts", "only a chord with a key of the board is a shortcut", pressed,
	)
	NoStrokeByModifier = system("no-stroke-by-modifier", "a modifier alone is no stroke of a sequence", pressed)
	NoKeysymOfItsOwn   = fromMapping("no-keysym-of-its-own", "the layouts give {key} no keysym of its own")
	ByCharacter        = system(
		"by-character",
		"{desktop} goes by the character: under layout {layout} it is the key that types {character} there",
		pressed,
	)
	TypesTheSame = system(
		"types-the-same", "{desktop} goes by the character: {key}, which types the same, does it as well", pressed,
	)
	MayTypeTheSame = system(
		"may-type-the-same",
		"{desktop} goes by the character: {key}, which types the same, may be taken for it",
		pressed,
	)
	UsedToo = system(
		"used-too",
		"{desktop} uses it, too, to {action}, and which of the two wins is not said; override = true takes it away there",
		"the stock chords of that desktop",
	)
	OneChord = system(
		"one-chord", "{desktop} has one chord for it: {chord} does it no longer", "the schema of its settings; of Xfce: "+pressed,
	)
	CommandNotHeld = system(
		"command-not-held",
		"{place} cannot hold the command: {what}",
		"GVariant text format; XML 1.0: Char; POSIX: Shell Command Language",
	)
	NoUsage       = system("no-usage", "{key} has no HID usage", "USB HID usage tables")
	NoScanCode    = system("no-scan-code", "{key} has no scan code", "the kernel: drivers/input/keyboard/atkbd.c")
	NoButtonsHere = system("no-buttons-here", "what reads a board takes no buttons of a mouse from it", pressed)
	NoKeysOfMouse = system("no-keys-of-mouse", "what reads a mouse takes no keys from it", pressed)
)
