package main

// term is a word of Hemble with what it means, and the words that are no longer used for it.
type term struct {
	word    string
	meaning string
	retired []string // regular expressions, for a text in lower case
}

// topic is terms that belong together.
type topic struct {
	title string
	terms []term
}

// glossary is where each word is explained, and nowhere else. docs/glossary.md is made of it, and a test holds texts to
// it.
var glossary = []topic{
	{"Exercises", []term{
		{"exercise",
			"What students have to build: a brief, a bench, trials and marks. It is one YAML file, with other files " +
				"beside it as needed.", nil},
		{"brief", "The text of an exercise that tells students what to build.", nil},
		{"revision",
			"A saved version of an exercise. The current revision of an assignment is used for new submissions.",
			[]string{`\bin force\b`}},
		{"bench", "The microcontroller, parts and wires of an exercise.", nil},
		{"part", "Something on a bench: a display, a button, a sensor, a resistor.", nil},
		{"board", "A table of names for the pins of a chip, such as D13.", nil},
		{"trial", "One run of a firmware on the bench, from power-on to its end.", nil},
		{"cue", "Something that happens to a part during a trial: a button is pressed, a knob is turned.", nil},
		{"expectation", "What a display has to show in a trial, with its marks.", nil},
		{"reference", "A firmware of the instructor that does what the exercise asks for.", nil},
		{"template", "A small complete exercise to begin from, with its reference.", nil},
		{"live bench", "The bench of an exercise, simulated in a web page and worked by hand.", nil},
		{"demonstration", "What was done by hand on a live bench, of which a trial is made.", nil},
		{"strength", "Which faults the expectations of an exercise catch.", nil},
		{"region", "A part of a display that an expectation looks at.", nil},
	}},
	{"Displays", []term{
		{"display", "A part that people look at or listen to.", nil},
		{"display type", "What displays have in common: lamp, digits, characters, pixels, bar, tone.", nil},
		{"state", "What a display shows at one time.", []string{`\bsights?\b`}},
		{"geometry", "Where the segments, cells or pixels of a display are, and their colours.", nil},
		{"frame", "A state with its beginning and end.", nil},
		{"track", "The frames of one display in one trial.", nil},
		{"reel", "The recording of what all displays of a trial showed.", nil},
		{"vision", "The model of how a person sees light, LCDs, tones and text over time.",
			[]string{`\bthe ear\b`, `\bthe eye (is|needs|adds)\b`}},
		{"as seen, as driven", "Two ways to look at a display: what a person sees, or what is driven at one moment.",
			[]string{`\beye (on|off)\b`}},
		{"film strip", "The frames of a display in a row.", nil},
		{"contact sheet", "The film strips of a class on one page.", nil},
		{"look-alikes", "Submissions whose displays first differ in the same way.", nil},
	}},
	{"Marking", []term{
		{"submission", "A file that a student submitted for an assignment.",
			[]string{`\bhand(s|ed|ing)? (it |them |work |in work )?in\b`}},
		{"attempt", "The number of a student's submission for an assignment: first, second and so on.", nil},
		{"verdict", "Whether an expectation was met, partly met or missed, with its marks.", nil},
		{"alignment", "The expected frames of a sequence beside the frames that were seen.", nil},
		{"finding", "A statement about a submission: a likely cause, or something the chip or a part noticed.", nil},
		{"cause", "A finding that explains a difference. Its repair is tested.", nil},
		{"repair", "A change of the reel, the bench or the program that undoes a fault, to test a cause.",
			[]string{`\bmend(s|ed|ing)?\b`}},
		{"replay", "Running recorded pin activity on a changed bench, instead of the program.", nil},
		{"symptom", "What a display looked like when nothing that can be repaired explains it.", nil},
		{"mark sheet", "Verdicts, findings and marks of one submission.", nil},
		{"override", "A change of marks by a person, with a reason.", nil},
		{"mark again", "Marking existing submissions with another revision or engine.",
			[]string{`\bremark(s|ed)?\b`, `\bmarks? (it |them |all |everything |everyone )*anew\b`}},
		{"proposed marks", "What marking again would change. They are applied or discarded.",
			[]string{`\btak(e|es|en|ing) (them )?over\b`}},
		{"seed sensitivity", "Whether the result depends on chance: on the seed of bounce and noise.",
			[]string{`\bluck(y)?\b`}},
		{"capture", "Recorded pin activity of a logic analyser or a simulation (VCD).", nil},
		{"engine", "The number of the marking rules. Same work, exercise, seed and engine give the same result.", nil},
		{"reference interpreter", "The slow interpreter of a chip that the fast one is compared with.",
			[]string{`\bplain[- ]step`}},
	}},
	{"The service", []term{
		{"class", "Students, instructors and assistants with their assignments.", nil},
		{"assignment", "An exercise that is assigned to a class under a policy.", nil},
		{"policy", "When and how often work is accepted, what late work loses, and when students see what.", nil},
		{"extension", "More time or attempts for a student or a group.", nil},
		{"roster", "The list of the students of a class.", nil},
		{"join code", "A code with which students join a class.", nil},
		{"saved comment", "A comment that is kept for use with other submissions.", []string{`\bphrases?\b`}},
		{"similar code", "Instruction sequences that several students' programs share and no reference has.",
			[]string{`\bshared routines\b`}},
		{"release", "Showing marks to the students.", nil},
		{"job", "One marking of one submission. A worker holds it by a lease.", nil},
		{"quarantined",
			"Said of a job that could not be marked because of the service, until somebody queues it again.",
			[]string{`\bset aside\b`}},
		{"audit log", "What changed marks or rights.", nil},
		{"data folder", "The folder with everything the service keeps.", nil},
		{"instructor, assistant, student", "Roles in a class.", nil},
		{"administrator", "An account that runs the service.", nil},
	}},
}
