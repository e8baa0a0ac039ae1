package roster

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"

	"hemble/wire"
)

func TestMatching(t *testing.T) {
	student := func(login, name, number string) wire.Member {
		return wire.Member{Login: login, Name: name, Number: number, Role: wire.Student}
	}
	m := NewMatcher([]wire.Member{
		student("oke", "Rosa Oke", "4001"), student("ok", "Olga Kern", ""),
		student("s17", "Jörg Müller-Lüdenscheidt", "4003"), student("s18", "Jörg Meier", ""),
		student("s19", "Anna Schmidt", ""), student("s20", "Anna Schmitt", ""), student("schmidt", "Peter Schmidt", ""),
		student("lopez", "Ines Haq", ""),
		student("s21", "Ana García López", ""), student("r.bell", "R. Bell", ""), student("s23", "Martin James", ""),
		student("s24", "James Martin", ""),
		student("s25", "Seán O'Brien", ""), student("s26", "Lena Groß", ""), student("s27", "Lena Grosser", ""),
		student("ann", "Bea Quist", "7"),
		{Login: "keeper", Name: "I. Keeper", Role: wire.Instructor},
	})
	for path, want := range map[string]string{ // + for sure, ? for likely, then how; candidates where there are several
		"oke-lamps.hex":                   "?oke login", // lamps may be somebody's name
		"oke.hex":                         "+oke login",
		"oke_final_v2.hex":                "+oke login",
		"Lab 2/4003_file/main.c":          "+s17 number",
		"4003-lamps.hex":                  "+s17 number",
		"rosa oke final.elf":              "+oke login",
		"Schmidt Anna_991_file/x.hex":     "+s19 name",
		"Schmidt_Anna/4001.hex":           " two names s19 schmidt oke s20",
		"schmidt.hex":                     " several schmidt s19",
		"Mueller-Luedenscheidt Joerg.hex": "+s17 name",
		"muller-ludenscheidt_jorg.hex":    "+s17 name",
		"jorg_meier.hex":                  "+s18 name",
		"JorgMeier.hex":                   "+s18 name",
		"meierjorg.hex":                   "+s18 name",
		"j_meier.hex":                     "+s18 name",
		"jmeier.hex":                      "+s18 name",
		"garcia_lopez.hex":                "?s21 near name",
		"Garcia Lopez, Ana.hex":           "+s21 name",
		"lopez.hex":                       " several lopez s21",
		"rachel bell timer.hex":           "+r.bell name",
		"r.bell.hex":                      "+r.bell login",
		"bell.hex":                        "?r.bell near name",
		"james martin.hex":                " several s23 s24",
		"s24 james martin.hex":            "+s24 login",
		"obrien_sean.hex":                 "+s25 name",
		"Seán O’Brien.hex":                "+s25 name",
		"lena gross.hex":                  "+s26 name",
		"Lena_Groß.hex":                   "+s26 name",
		"Rosa Oke und Jörg Meier.hex":     " two names oke s18",
		"rosa oke/jorg meier.hex":         " two names oke s18",
		"ann.hex":                         "+ann login",
		"ann marlow.hex":                  "?ann login",
		"Schmid Anna.hex":                 " several s19 s20",
		"keeper.hex":                      " nobody", "final version.hex": " nobody", "": " nobody",
		"token.hex": " nobody", "ok.hex": " nobody",
	} {
		got := m.Match(path)
		text := " "
		if got.Sure {
			text = "+"
		} else if got.Login != "" {
			text = "?"
		}
		text += got.Login
		if got.Login != "" {
			text += " "
		}
		text += got.How
		if got.Login == "" && got.Candidates != nil {
			text += " " + strings.Join(got.Candidates, " ")
		}
		if !assert.True(t, strings.HasPrefix(text, want), "%s: %s, not %s", path, text, want) {
			continue
		}
		assert.Equal(t, got.Sure || got.How == ByNobody, got.Candidates == nil, "the others are listed: %s", path)
	}
}

// What most files of a bulk are called tells nothing; words of the exercise are nobody's name.
func TestLearn(t *testing.T) {
	m := NewMatcher([]wire.Member{{Login: "oke", Name: "Rosa Oke", Role: wire.Student},
		{Login: "s1", Name: "Jo Lamp", Role: wire.Student}, {Login: "bell", Name: "Ivo Bell", Role: wire.Student},
		{Login: "haq", Name: "Sami Haq", Role: wire.Student}})
	assert.False(t, m.Match("oke gauge.hex").Sure)
	m.Learn(nil, "chamber-gauge")
	assert.True(t, m.Match("oke gauge.hex").Sure)
	paths := []string{"lamp oke tuesday.hex", "lamp bell tuesday.hex", "lamp haq tuesday.hex",
		"lamp jo lamp tuesday.hex"}
	m.Learn(paths)
	for i, login := range []string{"oke", "bell", "haq", "s1"} {
		assert.Equal(t, Match{Login: login, How: m.Match(paths[i]).How, Sure: true}, m.Match(paths[i]), paths[i])
	}
}

// roster300 is a made-up class: with siblings, surnames of two words, accents, exchanged names, and logins of every
// usual sort.
func roster300(r *rand.Rand) (out []wire.Member) {
	pick := func(words string) string { all := strings.Fields(words); return all[r.IntN(len(all))] }
	const firsts = "Anna Jörg Rosa Olga Ines Martin James Peter Lena Zoë Åsa Søren Łukasz Nadia Omar Li Wei Jo Max Ida Noor Ewa Ravi Tim Eva Lea Ben Finn Mia Kai Ana René Chloé Müge Ömer Yıldız Grace Hope Rose Dean"
	const begins, ends = "Bal Cor Den Fal Gar Hol Ken Lor Mar Nor Os Pel Quin Ral Sel Tor Ul Ver Wes Yar Zel Brü Grü Öst Sæ Çel Núñ Fürs", "ton ler mann sen ski ez ova well by ford ini ard aux berg stein dal ström lund gård heim"
	surname := func() string { return pick(begins) + pick(ends) }
	taken := map[string]bool{"": true}
	add := func(name string) {
		if taken[name] {
			return
		}
		taken[name] = true
		n := len(out)
		words := strings.Fields(strings.ToLower(name))
		ascii := func(s string) string {
			var b strings.Builder
			for _, t := range tokens(s) {
				b.WriteString(t.word)
			}
			return b.String()
		}
		login := ""
		switch n % 5 {
		case 0:
			login = ascii(words[len(words)-1]) // the surname alone
		case 1:
			login = ascii(words[0])[:1] + ascii(words[len(words)-1])
		case 2:
			login = fmt.Sprintf("s%05d", 20000+n)
		case 3:
			login = ascii(words[0]) + "." + ascii(words[len(words)-1])
		default:
			login = ascii(words[0])
		}
		for taken[login] {
			login += fmt.Sprint(n % 10)
		}
		taken[login] = true
		out = append(out, wire.Member{Login: login, Name: name, Number: fmt.Sprint(1700000 + 37*n), Role: wire.Student})
	}
	for len(out) < 300 {
		last := surname()
		switch r.IntN(10) {
		case 0: // siblings
			add(pick(firsts) + " " + last)
			add(pick(firsts) + " " + last)
		case 1: // two surnames
			add(pick(firsts) + " " + last + "-" + surname())
		case 2:
			add(pick(firsts) + " " + last + " " + surname())
		case 3: // two first names
			add(pick(firsts) + " " + pick(firsts) + " " + last)
		case 4: // a first name for a surname
			add(pick(firsts) + " " + pick(firsts))
		case 5:
			add(pick(firsts) + " " + pick("van de von di O'") + " " + last)
		default:
			add(pick(firsts) + " " + last)
		}
	}
	return out[:300]
}

// Of 2000 files of a class of 300, named in the ways that students and learning platforms name them, none is taken for
// another student's, and nine of ten are told for sure.
func TestMatchingOfMany(t *testing.T) {
	r := rand.New(rand.NewPCG(20, 26))
	class := roster300(r)
	flat := func(s string) string { // as it is typed without accents
		return strings.NewReplacer("ü", "ue", "ö", "oe", "ä", "ae", "ß", "ss", "å", "a", "ø", "o", "æ", "ae", "ł", "l",
			"é", "e", "ë", "e", "ú", "u", "ñ", "n", "ç", "c", "ı", "i").Replace(strings.ToLower(s))
	}
	swapped := func(name string) string {
		words := strings.Fields(name)
		return strings.Join(words[1:], " ") + " " + words[0]
	}
	under := func(s string) string { return strings.NewReplacer(" ", "_", "-", "_", "'", "").Replace(s) }
	forms := []func(s wire.Member) string{
		func(s wire.Member) string { return under(flat(s.Name)) + ".hex" },
		func(s wire.Member) string { return under(flat(swapped(s.Name))) + "_gauge.hex" },
		func(s wire.Member) string { return s.Name + ".elf" },
		func(s wire.Member) string { return swapped(s.Name) + " final.hex" },
		func(s wire.Member) string {
			return fmt.Sprintf("%s_%d_assignsubmission_file/main.c", s.Name, 100000+r.IntN(900000))
		},
		func(s wire.Member) string {
			return fmt.Sprintf("%s_%d_assignsubmission_file/%s.hex", swapped(s.Name), 100000+r.IntN(900000), s.Login)
		},
		func(s wire.Member) string { return s.Number + ".hex" },
		func(s wire.Member) string { return s.Number + "-gauge-v2.hex" },
		func(s wire.Member) string { return s.Number + " " + s.Name + ".zip" },
		func(s wire.Member) string { return "gauge_" + s.Login + ".hex" },
		func(s wire.Member) string { return s.Login + "_" + under(flat(s.Name)) + ".hex" },
		func(s wire.Member) string { return "Group B/" + s.Name + "/firmware.hex" },
		func(s wire.Member) string { return strings.ReplaceAll(s.Name, " ", "") + "Lab2.hex" },
		func(s wire.Member) string { return under(flat(s.Name)) + fmt.Sprintf(" (%d).hex", 1+r.IntN(3)) },
	}
	m := NewMatcher(class)
	var paths []string
	var whose []string
	for range 2000 {
		s := class[r.IntN(len(class))]
		paths = append(paths, forms[r.IntN(len(forms))](s))
		whose = append(whose, s.Login)
	}
	m.Learn(paths, "chamber-gauge")
	sure, wrong := 0, 0
	for i, p := range paths {
		got := m.Match(p)
		if !got.Sure {
			listed := got.Login == whose[i] || slices.Contains(got.Candidates, whose[i])
			assert.True(t, listed, "%s is %s's: %v", p, whose[i], got)
			continue
		}
		sure++
		if got.Login != whose[i] {
			wrong++
			t.Logf("%s is %s's, and was taken for %s's", p, whose[i], got.Login)
		}
	}
	t.Logf("%d of %d for sure", sure, len(paths))
	assert.Zero(t, wrong)
	assert.GreaterOrEqual(t, sure*10, len(paths)*9)
}

// Files of people who are not in the class, with first names and surnames that occur in it, are nobody's for sure.
func TestMatchingOfStrangers(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 7))
	class := roster300(r)
	names := map[string]bool{}
	var firsts, lasts []string
	for _, s := range class {
		words := strings.Fields(s.Name)
		names[s.Name] = true
		firsts, lasts = append(firsts, words[0]), append(lasts, words[len(words)-1])
	}
	m := NewMatcher(class)
	for range 500 {
		name := firsts[r.IntN(len(firsts))] + " " + lasts[r.IntN(len(lasts))]
		// a name within a longer one, or the same two exchanged
		if names[name] || slices.ContainsFunc(m.students, func(own student) bool {
			return !slices.ContainsFunc(tokens(name), func(t token) bool { return own.forms[t.word] == nil })
		}) {
			continue
		}
		got := m.Match(name + ".hex")
		assert.False(t, got.Sure, "%s is nobody of the class: %v", name, got)
	}
}

func FuzzMatch(f *testing.F) {
	m := NewMatcher([]wire.Member{{Login: "oke", Name: "Rosa Oke", Role: wire.Student},
		{Login: "s17", Name: "Jörg Müller", Number: "4003", Role: wire.Student}})
	f.Add("oke.hex")
	f.Fuzz(func(t *testing.T, path string) {
		got := m.Match(path)
		assert.False(t, got.Sure && got.Login == "", "nobody for sure")
		assert.Equal(t, got, m.Match(path), "the same again")
	})
}
