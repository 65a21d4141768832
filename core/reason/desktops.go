package reason

// What holds for single desktops of Linux.
var (
	XfceTypesTheSame = system(
		"xfce-types-the-same", "Xfce goes by the character: {key}, which types the same, starts it as well", pressed,
	)
	XfceActsAtOnce = system(
		"xfce-acts-at-once",
		"before {version}, Xfce acts as soon as a modifier is pressed, also where that begins a chord",
		pressed,
	)
	XfceStartsOnly    = system("xfce-starts-only", "by a modifier alone Xfce only starts programs", pressed)
	XfceNotAlone      = system("xfce-not-alone", "Xfce has no shortcut for {modifiers} alone", pressed)
	XfceModifierStays = system(
		"xfce-modifier-stays", "in Xfce, a key that holds a modifier is that modifier alone", pressed,
	)
	XfceChordOfUser = system(
		"xfce-chord-of-user",
		"Xfce's window manager takes one chord for an action, and those that users have for it stay beside one for everyone",
		pressed,
	)
	CinnamonMenuKeeps = system(
		"cinnamon-menu-keeps",
		"what Cinnamon does by a modifier alone, its menu keeps among settings of its own",
		"the menu's settings",
	)
	MateNotAlone  = system("mate-not-alone", "MATE has no shortcut by a modifier alone", pressed)
	GnomeOneAlone = system(
		"gnome-one-alone",
		"GNOME does one thing by a modifier alone: Meta shows the overview, or does not",
		"schema org.gnome.mutter: overlay-key",
	)
	LeftOfTwo     = system("left-of-two", "by the left of the two keys", "schema org.gnome.mutter: overlay-key")
	UserMayRemove = system(
		"user-may-remove", "a user may take it out of the list of their own shortcuts", "dconf(7): locks are not used",
	)
	MateShiftSign = system(
		"mate-shift-sign", "MATE starts nothing by Shift with a key that types another sign then", pressed,
	)
	RepeatRounded = system(
		"repeat-rounded", "a key repeats every {milliseconds} ms, {rate} times a second", "the schema of its settings",
	)
	PlasmaNothingAlone    = system("plasma-nothing-alone", "Plasma has nothing for {modifiers} alone", pressed)
	PlasmaButtonsGiveKeys = system(
		"plasma-buttons-give-keys",
		"Plasma has two further buttons of a mouse give a key or a chord, and nothing else",
		"kwin's rebinding of buttons",
	)
	PlasmaButtonsFrom = system(
		"plasma-buttons-from", "Plasma has a button of a mouse give keys from 5.27 on", "kwin's rebinding of buttons",
	)
	PlasmaButtonsWayland = system(
		"plasma-buttons-wayland",
		`Plasma has a button of a mouse give keys in its Wayland session: say session = "wayland" if the machine has no other`,
		"kwin's rebinding of buttons",
	)
	NoNameInPlasma    = system("no-name-in-plasma", "Plasma's shortcuts have no name for {key}", "Qt: QKeySequence")
	PlasmaByCharacter = system(
		"plasma-by-character", "Plasma goes by the character, and {key} types what {press} does", pressed,
	)
	PlasmaSemicolon = system(
		"plasma-semicolon", "a semicolon parts the chords of a list of Plasma's, and is no key in it", pressed,
	)
	PlasmaUsedToo = system(
		"plasma-used-too",
		`Plasma uses it, too, for "{action}", and which of the two wins is not said; override = true takes it away there`,
		"the stock chords of that desktop",
	)
	KDEProgramsRestart = system(
		"kde-programs-restart", "in programs of KDE, when they start again", "KDE's documentation of KStandardShortcut",
	)
	KDEUsedToo = system(
		"kde-used-too",
		"they use it for {action} as well, and which of the two wins is not said; override = true takes it away there",
		"KDE's documentation of KStandardShortcut",
	)
	NoCommandFor       = system("no-command-for", "{manager} has no command for {action}", "its manual")
	NothingToSwitchOff = system(
		"nothing-to-switch-off", "{manager} does nothing by a modifier alone that could be switched off", "its manual",
	)
	OtherKeysPass = system(
		"other-keys-pass", "other keys pressed between the strokes go to the program; Escape gives up", pressed,
	)
	CommandLong = system(
		"command-long", "the command is too long for a line of the configuration", "the parser of the configuration",
	)
	WhoseConfigIncludes = system(
		"whose-config-includes",
		"for those whose configuration includes {path}, as the one does that comes with sway",
		"sway(5)",
	)
	SeveralAlone    = system("several-alone", "several modifiers alone are not bound", pressed)
	AlsoWithButton  = system("also-with-button", "it acts also when a button of the mouse was pressed with it", pressed)
	OverWindow      = system("over-window", "over a window, not over the bare desktop", pressed)
	MustBeInstalled = system("must-be-installed", "{program} must be installed", "what the action runs")
	CoversBars      = system("covers-bars", "the window covers the bars as well", "its manual")
	ToScratchpad    = system(
		"to-scratchpad",
		"the window goes to the scratchpad, from which `scratchpad show` brings it back",
		"its manual",
	)
	TiledChangesPlaces = system("tiled-changes-places", "a tiled window changes places; Escape ends it", "its manual")
	EscapeEnds         = system("escape-ends", "Escape ends it", "its manual")
	NextOnWorkspace    = system("next-on-workspace", "the next one on the workspace", "its manual")
	WorkspacesInUse    = system("workspaces-in-use", "of those that are in use", "its manual")
	NeedsLockListener  = system(
		"needs-lock-listener", "something must listen for the lock signal, such as xss-lock or swayidle", "loginctl(1)",
	)
)
