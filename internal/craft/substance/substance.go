// Package substance is what a body, a belief or a law may not take, apart from
// the products that hold it: a list of substances and classes with the other
// words that people use for them, and how what is known of a person meets what
// is known of a product. It judges nobody's health: it compares two records and
// says what they leave open.
package substance

import (
	"slices"
	"strings"
)

// Substance is one thing that a product may hold or give off, or a class of
// such things.
type Substance struct {
	Code string `json:"code" maxLength:"40"`
	Name string `json:"name" maxLength:"80"`
	// Of are the classes that it belongs to: whoever may not take the class may
	// not take it.
	Of []string `json:"of,omitempty" maxItems:"8"`
	// Words are other names for it, in small letters.
	Words []string `json:"words,omitempty" maxItems:"20"`
	Note  string   `json:"note,omitempty" maxLength:"200"`
}

// List is the substances that a shop knows.
type List []Substance

// Usual is the list that every shop begins with; a shop adds its own. Classes
// stand before what belongs to them.
var Usual = List{
	{Code: "latex", Name: "natural rubber latex", Words: []string{"rubber", "natural rubber", "caoutchouc", "rubber milk", "nrl"}},
	{Code: "resin", Name: "resins", Words: []string{"natural resin", "tree resin"}},
	{Code: "colophony", Name: "colophony", Of: []string{"resin"}, Words: []string{"rosin", "colophonium", "pine resin", "gum rosin"}},
	{Code: "shellac", Name: "shellac", Of: []string{"resin", "animal"}, Words: []string{"lac"}},
	{Code: "mastic", Name: "mastic and other tree gums", Of: []string{"resin"}, Words: []string{"gum mastic", "spirit gum resin"}},
	{Code: "solvent", Name: "solvents", Words: []string{"thinner", "thinners"}},
	{Code: "alcohol", Name: "alcohol", Of: []string{"solvent"}, Words: []string{"ethanol", "isopropanol", "isopropyl alcohol", "spirit", "spirits"}},
	{Code: "acetone", Name: "acetone", Of: []string{"solvent"}, Words: []string{"ketone", "propanone"}},
	{Code: "ester", Name: "ester solvents", Of: []string{"solvent"}, Words: []string{"ethyl acetate", "butyl acetate"}},
	{Code: "hydrocarbon", Name: "hydrocarbon solvents", Of: []string{"solvent"}, Words: []string{"naphtha", "white spirit", "heptane", "turpentine", "mineral spirits"}},
	{Code: "siloxane", Name: "volatile silicone fluid", Of: []string{"solvent", "silicone"}, Words: []string{"cyclomethicone", "hexamethyldisiloxane"}},
	{Code: "ammonia", Name: "ammonia", Words: []string{"ammonium hydroxide"}},
	{Code: "fragrance", Name: "fragrance", Words: []string{"perfume", "parfum", "scent", "essential oil", "essential oils", "menthol", "limonene", "linalool"}},
	{Code: "wax", Name: "waxes"},
	{Code: "beeswax", Name: "beeswax", Of: []string{"wax", "animal"}, Words: []string{"cera alba", "bees wax", "bee products", "propolis"}},
	{Code: "petroleum_wax", Name: "paraffin and microcrystalline wax", Of: []string{"wax", "petroleum"}, Words: []string{"paraffin", "microcrystalline wax"}},
	{Code: "petroleum", Name: "mineral oil and petroleum jelly", Words: []string{"petrolatum", "mineral oil", "paraffin oil"}},
	{Code: "animal", Name: "animal matter", Words: []string{"animal products", "animal derived", "not vegan", "meat"}},
	{Code: "gelatin", Name: "gelatin", Of: []string{"animal"}, Words: []string{"gelatine", "collagen", "pork", "pig", "porcine", "beef", "bovine", "fish gelatin"}},
	{Code: "lanolin", Name: "lanolin and wool", Of: []string{"animal"}, Words: []string{"wool fat", "wool", "wool wax", "wool alcohols"}},
	{Code: "carmine", Name: "carmine", Of: []string{"animal", "dye"}, Words: []string{"cochineal"}},
	{Code: "feather", Name: "feathers", Of: []string{"animal"}, Words: []string{"down", "plumes"}},
	{Code: "animal_hair", Name: "animal hair", Of: []string{"animal"}, Words: []string{"yak hair", "horse hair", "fur", "animal dander"}},
	{Code: "dye", Name: "dyes", Words: []string{"dyes", "colourant", "azo dye", "azo dyes", "ppd", "paraphenylenediamine", "food colour", "hair dye"}},
	{Code: "metal_pigment", Name: "metal pigments", Words: []string{"iron oxide", "chromium", "cobalt", "mica"}},
	{Code: "nickel", Name: "nickel and base metals", Words: []string{"metal", "brass", "jewellery"}},
	{Code: "acrylate", Name: "acrylates", Words: []string{"acrylic", "methacrylate", "plaster adhesive", "acrylic glue", "cyanoacrylate"}},
	{Code: "silicone", Name: "silicone", Words: []string{"dimethicone", "polysiloxane"}},
	{Code: "isocyanate", Name: "isocyanates", Words: []string{"polyurethane", "mdi", "tdi"}},
	{Code: "epoxy", Name: "epoxy resin and its hardener", Words: []string{"epoxide", "amine hardener"}},
	{Code: "tin_catalyst", Name: "tin catalyst", Words: []string{"organotin"}},
	{Code: "vinyl", Name: "vinyl plastics", Words: []string{"pvb", "pvc", "polyvinyl"}},
	{Code: "sulphur", Name: "sulphur and rubber accelerators", Words: []string{"sulfur", "thiuram", "carbamate", "carba mix", "rubber accelerator"}},
	{Code: "preservative", Name: "preservatives", Words: []string{"paraben", "parabens", "isothiazolinone", "methylisothiazolinone", "formaldehyde", "phenoxyethanol"}},
	{Code: "glycol", Name: "propylene glycol", Words: []string{"glycols"}},
	{Code: "glycerin", Name: "glycerin", Words: []string{"glycerol", "glycerine"}},
	{Code: "sorbitol", Name: "sorbitol"},
	{Code: "antiperspirant", Name: "aluminium salts", Words: []string{"aluminium"}},
	{Code: "talc", Name: "talc and mineral powder", Words: []string{"talcum"}},
	{Code: "plaster", Name: "plaster and gypsum", Words: []string{"gypsum"}},
	{Code: "food", Name: "foods"},
	{Code: "nuts", Name: "nuts and their oils", Of: []string{"food"}, Words: []string{"nut", "peanut", "peanuts", "almond", "almond oil", "hazelnut", "walnut", "cashew", "tree nuts"}},
	{Code: "gluten", Name: "wheat and gluten", Of: []string{"food"}, Words: []string{"wheat", "flour", "coeliac", "celiac"}},
	{Code: "soy", Name: "soy", Of: []string{"food"}, Words: []string{"soya", "lecithin"}},
	{Code: "milk", Name: "milk", Of: []string{"food", "animal"}, Words: []string{"casein", "lactose", "dairy"}},
	{Code: "egg", Name: "egg", Of: []string{"food", "animal"}, Words: []string{"eggs", "albumen", "egg white"}},
	{Code: "corn", Name: "maize and its syrup", Of: []string{"food"}, Words: []string{"maize", "corn syrup", "cornstarch", "sugar", "syrup"}},
	{Code: "chocolate", Name: "cocoa", Of: []string{"food"}, Words: []string{"cocoa", "cacao"}},
	{Code: "pulses", Name: "pulses", Of: []string{"food", "plant"}, Words: []string{"beans", "lentils", "peas", "lupin"}},
	{Code: "seaweed", Name: "seaweed and alginate", Of: []string{"plant"}, Words: []string{"algae", "alginate", "agar", "carrageenan"}},
	{Code: "plant", Name: "plant matter", Words: []string{"pollen", "moss", "grass"}},
}

func plain(words string) string {
	return strings.Join(strings.FieldsFunc(strings.ToLower(words), func(r rune) bool {
		return r != '\'' && (r < 'a' || r > 'z') && (r < '0' || r > '9') && r < 128
	}), " ")
}

// Find looks a substance up by its code.
func (l List) Find(code string) (Substance, bool) {
	for _, s := range l {
		if s.Code == code {
			return s, true
		}
	}
	return Substance{}, false
}

// Named are the codes of the substances that words name, whole words alone,
// longest names first; none when the words name nothing of the list. "natural
// rubber latex, allergic" names latex.
func (l List) Named(words string) []string {
	text := " " + plain(words) + " "
	var out []string
	for _, s := range l {
		names := append([]string{strings.ReplaceAll(s.Code, "_", " "), plain(s.Name)}, s.Words...)
		if slices.ContainsFunc(names, func(n string) bool { return strings.Contains(text, " "+plain(n)+" ") }) {
			out = append(out, s.Code)
		}
	}
	return out
}

// Is says whether a substance is another, or belongs to it.
func (l List) Is(code, class string) bool {
	if code == class {
		return true
	}
	s, _ := l.Find(code)
	return slices.ContainsFunc(s.Of, func(of string) bool { return l.Is(of, class) })
}

// Holds is what is known of a product: what it contains or gives off, and what
// its data sheet says that it is free of. What stands in neither is not known.
type Holds struct {
	Slug     string
	Contains []string
	FreeOf   []string
}

// State is how a product stands to one substance.
type State int

// The states, the best first.
const (
	Free      State = iota // a data sheet says so
	NotStated              // nobody has looked
	Held                   // it is in it
)

// Of says how a product stands to a substance or class. Free of a class is free
// of all that belongs to it; holding something that belongs to a class is
// holding the class.
func (h Holds) Of(l List, code string) State {
	if slices.ContainsFunc(h.Contains, func(c string) bool { return l.Is(c, code) }) {
		return Held
	}
	if slices.ContainsFunc(h.FreeOf, func(f string) bool { return l.Is(code, f) }) {
		return Free
	}
	return NotStated
}

// Statuses of a fact of a person.
const (
	Allergic  = "allergic"
	Sensitive = "sensitive" // and unclear
	Clear     = "clear"
	Excludes  = "excludes" // by belief or wish
	Reacted   = "reacted"  // a patch test of it was positive
)

// Fact is one thing that a person may not take, or may: a substance or class of
// the list, or one product by its slug. Words are what was typed; a fact in
// words alone has no code.
type Fact struct {
	Code   string `json:"code"`
	Words  string `json:"words,omitempty"`
	Status string `json:"status"`
}

// Speaks says whether the fact holds anything back.
func (f Fact) Speaks() bool { return f.Status != Clear && f.Status != "" }

// Meeting is how a product meets a fact of a person.
type Meeting struct {
	Fact  Fact
	State State
}

// Meets are the facts of a person that speak against a product, gravest first:
// what it holds, then what is not stated of it. Belief asks what is in it, never
// what is not stated. A fact about one product is about that one.
func Meets(l List, facts []Fact, h Holds) []Meeting {
	var out []Meeting
	for _, f := range facts {
		if !f.Speaks() || f.Code == "" {
			continue
		}
		if f.Code == h.Slug {
			out = append(out, Meeting{f, Held})
			continue
		}
		if _, listed := l.Find(f.Code); !listed {
			continue // another product by its slug
		}
		switch state := h.Of(l, f.Code); {
		case state == Held, state == NotStated && (f.Status == Allergic || f.Status == Sensitive):
			out = append(out, Meeting{f, state})
		}
	}
	slices.SortStableFunc(out, func(a, b Meeting) int { return weight(b) - weight(a) })
	return out
}

func weight(m Meeting) int {
	n := int(m.State) * 10
	if m.Fact.Status == Allergic {
		n++
	}
	return n
}

// Unlisted are the facts in free words that name nothing of the list: somebody
// has to say what they mean.
func Unlisted(facts []Fact) []Fact {
	var out []Fact
	for _, f := range facts {
		if f.Speaks() && f.Code == "" {
			out = append(out, f)
		}
	}
	return out
}

// Conflicts says whether anything that is known speaks against a product: what
// is offered instead has no known conflict, which is not that it has none.
func Conflicts(l List, facts []Fact, h Holds) bool {
	return slices.ContainsFunc(Meets(l, facts, h), func(m Meeting) bool { return m.State == Held })
}
