package rules

// Groups of the book.
const (
	compatibility = "compatibility"
	orderOfWork   = "order of work"
	theWearer     = "the wearer"
	theMaker      = "the maker"
	look          = "look"
	carrying      = "carrying"
	theMap        = "the map"
)

// Where a rule is decided.
const (
	bySection = "section"
	byMap     = "the wearer's map"
	bySculpt  = "the sculpt"
	byHands   = "who does it"
)

func cut(id, group string, s Severity, text string, f func(Case) []Finding) Rule {
	return Rule{ID: id, Group: group, Severity: s, Text: text, Decided: bySection, perCut: f}
}

func whole(id, group string, s Severity, text string, f func(Case) []Finding) Rule {
	return Rule{ID: id, Group: group, Severity: s, Text: text, Decided: bySection, once: f}
}

// mapped rules are decided where the wearer's map and the plan of wear are
// worked out (packages wearmap and wear).
func mapped(id, group string, s Severity, text string) Rule {
	return Rule{ID: id, Group: group, Severity: s, Text: text, Decided: byMap}
}

// sculpted rules are decided where a texture and the surface of the clay are
// judged (package texture).
func sculpted(id, group string, s Severity, text string) Rule {
	return Rule{ID: id, Group: group, Severity: s, Text: text, Decided: bySculpt}
}

// roomed rules are decided in the place of the round that records what they
// need (package mouldmath).
func roomed(id, group string, s Severity, text, place string) Rule {
	return Rule{ID: id, Group: group, Severity: s, Text: text, Decided: place}
}

// waiting rules need what only a later place of the round records.
func waiting(id, group string, s Severity, text, place string) Rule {
	return Rule{ID: id, Group: group, Severity: s, Text: text, Decided: place, Waiting: true}
}

// Book is every rule of the craft, by group. Ids are the handbook's; MAP and
// WGT are ours.
var Book = []Rule{
	cut("INH-1", compatibility, Stop, "Addition-cure silicone stays sticky against natural rubber, fresh condensation silicone, bare polyurethane foam, sulphur clay, amine epoxy and uncured print resin.", inhibition),
	cut("INH-2", compatibility, Warn, "Addition silicone in a condensation-silicone mould that is sealed and cured through: patch-test first.", postCuredMould),
	whole("INH-3", compatibility, Warn, "Gloves and sponges of latex keep addition silicone sticky where it is not cured yet.", latexHands),
	cut("LAT-1", compatibility, Stop, "No latex on copper or brass: it stains and perishes.", latexOnCopper),
	cut("LAT-2", compatibility, Warn, "Mineral oil and petroleum jelly perish latex; on purpose it is a tip.", mineralOil),
	cut("LAT-3", compatibility, Warn, "Slush latex needs a mould that drinks.", slushMould),
	cut("LAT-4", compatibility, Stop, "No latex straight on hair, brows or lashes without protection.", latexOnHair),
	cut("ADH-1", compatibility, Stop, "The adhesive must hold the family: gum and acrylic do not hold bare silicone, lash glue holds hair only.", adhesiveHolds),
	waiting("ADH-2", compatibility, Warn, "The remover in the kit matches the adhesive.", "handover"),
	cut("ADH-3", compatibility, Warn, "A barrier goes under adhesive on sensitive skin, and under stipple.", noBarrier),
	cut("ADH-4", compatibility, Warn, "Water-based adhesive on unsealed gelatin is common, but weakens with sweat.", waterGlueOnGelatin),
	cut("ADH-5", compatibility, Warn, "Something holds the piece, and glue lies under it.", nothingHolds),
	cut("MED-1", compatibility, Warn, "Water-activated paint does not hold on latex, foam or wax, nor on grease.", waterPaintOnRubber),
	waiting("MED-2", compatibility, Warn, "Alcohol-activated colour wants 99 % alcohol.", "colour"),
	cut("MED-3", compatibility, Warn, "Alcohol-activated colour soaks into unsealed foam.", alcoholOnFoam),
	cut("MED-4", compatibility, Stop, "Only silicone-bound colour holds on bare silicone.", paintOnSilicone),
	cut("MED-5", compatibility, Warn, "Cream is set before anything goes over it.", unsetCream),
	cut("MED-6", compatibility, Warn, "Water-activated paint dissolves unsealed gelatin.", waterPaintOnGelatin),
	cut("MED-7", compatibility, Tip, "For long wear the darkest marks are set with matching powder.", longWear),
	cut("MED-8", compatibility, Stop, "A paint or seal whose solvent dissolves the film below it ruins that film.", dissolvesFilm),
	cut("REL-1", compatibility, Stop, "Something parts the cast from its mould, and does not poison it.", noRelease),
	sculpted("REL-2", compatibility, Tip, "Release and a peelable film go on before a trial paint on a sculpt."),
	roomed("MLD-1", compatibility, Stop, "A gypsum mould is dry before it is baked.", "mould"),
	roomed("MLD-2", compatibility, Warn, "A mould is opened when it is cool enough.", "mould"),
	roomed("MLD-3", compatibility, Warn, "A mould near the end of its casts is watched.", "mould"),
	roomed("MLD-4", compatibility, Stop, "No undercut locks a rigid cast in a rigid mould.", "mould"),
	roomed("MLD-5", compatibility, Stop, "No sculpt is moulded while a scan shows its core through it; where it is thin, somebody says why.", "sculpt"),
	roomed("MLD-6", compatibility, Warn, "Gypsum takes the water that its sheet says.", "mould"),
	roomed("MLD-7", compatibility, Warn, "Casting plaster is not baked.", "mould"),
	waiting("GEL-1", compatibility, Stop, "Gelatin is not heated over 75 °C.", "mix"),
	cut("GEL-2", compatibility, Warn, "Skin and air stay 5 °C below where gelatin softens.", gelatinInHeat),
	waiting("GEL-3", compatibility, Warn, "A gelatin piece is worn within its shelf window.", "build"),
	waiting("GEL-4", compatibility, Tip, "Gelatin is weighed after re-melting and its water topped up.", "mix"),
	cut("WAX-1", compatibility, Warn, "Wax is sealed under colour and costume.", waxUnsealed),
	cut("WAX-2", compatibility, Tip, "What keeps fingers off wax depends on what goes on top.", waxFingers),
	cut("WAX-3", compatibility, Warn, "Wax does not stand heat or movement.", waxInHeat),
	cut("FIB-1", compatibility, Tip, "Fibre is opened thin.", openFibre),
	cut("FIB-2", compatibility, Warn, "More than four reinforced layers stiffen a moving area.", tooMuchFibre),

	cut("SEQ-1", orderOfWork, Warn, "The next coat goes on when the last one is ready for it.", coatsTooSoon),
	cut("SEQ-2", orderOfWork, Stop, "Over stipple that is not powdered goes only a further coat of the same.", overStipple),
	cut("SEQ-3", orderOfWork, Warn, "Latex is powdered before it is lifted, or it sticks to itself for good.", latexUnpowdered),
	cut("SEQ-4", orderOfWork, Warn, "Stretch-stipple comes before anything is glued nearby.", stretchAfterGlue),
	cut("SEQ-5", orderOfWork, Tip, "Colour that is meant to show through goes under the stipple.", colourUnder),
	cut("SEQ-6", orderOfWork, Stop, "Pins, points and wires are fitted before the piece is on the face.", sharpAtTheFace),
	whole("SEQ-7", orderOfWork, Warn, "An overlapped piece goes on before the one that overlaps it; centre first, eyes last.", pieceOrder),
	cut("SEQ-8", orderOfWork, Warn, "Not hair before colour, not powder before glitter, not wet look before setting.", orderOfFinish),
	cut("SEQ-9", orderOfWork, Tip, "A line lost under foundation is remade after it.", lineUnderBase),
	sculpted("SEQ-10", orderOfWork, Warn, "No trial paint on a sculpt without release and film."),
	sculpted("SEQ-11", orderOfWork, Warn, "The form is settled before texture."),
	roomed("SEQ-12", orderOfWork, Stop, "A sculpt goes to its mould through its gate; without a texture somebody says why.", "sculpt"),
	waiting("WIN-1", orderOfWork, Warn, "No window closes when nobody is working.", "plan"),
	waiting("WIN-2", orderOfWork, Stop, "One mix fills no more moulds than its pot life allows.", "plan"),

	whole("SAF-1", theWearer, Never, "No latex of any kind for a person recorded as allergic to it; hold back where the record says sensitive and unclear.", meetsLatex),
	cut("SAF-2", theWearer, Stop, "Whatever touches skin wants a clear patch test that has not run out: adhesive, latex, colour, remover.", patchTests),
	cut("SAF-3", theWearer, Never, "No liquid latex, solvent, glue or hot mass inside the keep-out; around the eyes only with care.", aroundTheEyes),
	mapped("SAF-4", theWearer, Never, "Never both nostrils closed without an agreed free mouth, nor the mouth without free nostrils."),
	mapped("SAF-5", theWearer, Warn, "Where sight or hearing is reduced, somebody walks beside the performer."),
	whole("SAF-6", theWearer, Warn, "Worn mass and heat stay within the wearer's limits: minutes on, minutes off, closures in reach.", tooHeavy),
	cut("SAF-7", theWearer, Stop, "On lips and in mouths only what is mouth-safe.", notForMouths),
	cut("SAF-8", theWearer, Warn, "What stains is said before it is used.", stains),
	cut("SAF-9", theWearer, Never, "Never instant, hot or contact glue on skin; other household glue and paste with care.", glueNotForSkin),
	cut("SAF-10", theWearer, Stop, "Nothing over 40 °C on skin.", tooHot),
	waiting("SAF-11", theWearer, Warn, "Nothing is peeled dry.", "handover"),
	waiting("SAF-12", theWearer, Warn, "No product past its date or from a quarantined lot.", "mix"),
	roomed("SAF-13", theWearer, Never, "No hand, limb or head is enclosed in plaster or another mass that heats.", "form"),
	roomed("SAF-14", theWearer, Never, "No face cast without free nostrils, a second person, a hand signal and a quick way off.", "form"),
	cut("SAF-15", theWearer, Stop, "Silicone, resin, foam and glue on skin only when sold for skin.", notSoldForSkin),
	whole("SAF-16", theWearer, Stop, "No animal-derived material for a person who excludes it.", meetsBelief),
	whole("SAF-17", theWearer, Never, "Nothing that holds or gives off what the wearer is allergic to, in any layer, glue, remover, colour or release; held back where the record says sensitive or a patch test was positive.", meetsOthers),
	whole("SAF-18", theWearer, Stop, "Not stated is never free of: for somebody sensitive a data sheet settles it first.", notStated),
	whole("SAF-19", theWearer, Stop, "A sensitivity in free words is asked about before anything touches the wearer.", inWordsOnly),
	whole("SAF-20", theWearer, Never, "Nothing for a performer under age without a guardian's consent, a named chaperone, hours within the local law and measured sizes.", underAge),
	whole("SAF-21", theWearer, Warn, "A clear patch test beside a recorded allergy proves nothing.", clearBesideAllergy),

	whole("MAK-1", theMaker, Tip, "Ammonia and solvent: ventilation, eyes shut near a face.", vapours),
	whole("MAK-2", theMaker, Tip, "Dust: extraction and a respirator of the right class.", dust),
	waiting("MAK-3", theMaker, Never, "No flame, hot gun or spark near solvent, alcohol or their vapour.", "build"),
	whole("MAK-4", theMaker, Tip, "Uncured resin and catalyst: gloves that do not inhibit.", uncured),
	whole("MAK-5", theMaker, Tip, "Hot plate, oven and torch: gloves and a clear way.", hotTools),
	whole("MAK-6", theMaker, Tip, "Blades and glass: cut away from the hand.", blades),
	whole("MAK-7", theMaker, Tip, "Spraying indoors: booth and respirator.", spraying),
	whole("MAK-8", theMaker, Warn, "Microwave for paste or gelatin: short bursts, never sealed, never with metal.", microwave),

	{ID: "MAK-9", Group: theMaker, Severity: Stop, Text: "What makers and artists may not take themselves meets the work that they are given.", Decided: byHands},

	whole("EYE-8", look, Warn, "The section draws the edge that the sculpt has.", againstScan),
	cut("EYE-1", look, Warn, "An edge thicker than its material allows shows.", edgeShows),
	sculpted("EYE-2", look, Warn, "A texture that repeats looks machine-made."),
	waiting("EYE-3", look, Warn, "The colour matches the skin under every light of the set.", "colour"),
	cut("EYE-4", look, Warn, "No powder is left white on dark tones.", whitePowder),
	waiting("EYE-5", look, Tip, "Left and right differ as agreed.", "check"),
	whole("EYE-6", look, Tip, "No detail where costume covers it.", detailUnderCostume),
	sculpted("EYE-7", look, Tip, "Veins are not sculpted deeper than they read after paint."),

	whole("AMT-2", carrying, Warn, "The areas of map, section and scan agree within their bands, or somebody says which is believed.", areasDisagree),
	whole("AMT-1", carrying, Warn, "What is drawn, scanned, weighed and poured of a piece agrees within its bands, or somebody says which is believed.", voicesDisagree),
	cut("WGT-4", carrying, Warn, "Silicone over 15 mm is heavy and drags at its edge.", tooThick),
	cut("WEAR-1", carrying, Warn, "The adhesive lasts the hours of its worst day, with heat, sweat and exertion.", wears),
	cut("WEAR-3", carrying, Warn, "Colour, seal, wet look, blood, wax, gelatin and paste last the hours of their worst day.", surfaceLasts),
	cut("WEAR-2", carrying, Warn, "What lies open to water stands it.", standsNoWater),
	whole("SEQ-13", orderOfWork, Warn, "What is built on the wearer says how long they sit, and over two hours is planned otherwise.", atTheChair),
	cut("WGT-1", carrying, Warn, "Filling and inserts are inert: plant and food rot with sweat.", rots),
	whole("WGT-2", carrying, Warn, "What is heavy is anchored, not only glued.", unanchored),
	whole("WGT-3", carrying, Tip, "What should swing has weight in it.", swingsEmpty),

	roomed("FIN-1", theWearer, Stop, "Loose, dusty or plant parts never beside nose or mouth; elsewhere each is tugged first.", "finish"),
	roomed("FIN-2", orderOfWork, Stop, "A fixing bears what is set on it, three times over.", "finish"),
	roomed("FIN-3", look, Warn, "Halves that meet look and read alike along their border.", "finish"),
	roomed("FIN-4", orderOfWork, Stop, "Work on a copy goes in an order that its layers stand.", "finish"),
	roomed("FIN-5", theWearer, Stop, "What closes opens again within two minutes.", "finish"),
	roomed("FIN-6", theWearer, Stop, "Lenses are supplied and fitted by a licensed person, and worn no longer than that person says.", "finish"),
	roomed("FIN-7", theMaker, Warn, "Steam on hair: never near the wearer, never on synthetic fibre.", "finish"),
	roomed("FIN-8", theWearer, Never, "A lens is never shared.", "finish"),
	roomed("FIN-9", theWearer, Tip, "Lenses out before remover comes near the eye.", "finish"),
	roomed("FIN-10", carrying, Warn, "The weights of section and finish plan agree within a tenth.", "finish"),
	roomed("CHK-1", look, Stop, "What is worse than its finish grade is not accepted; a lead may say why it is.", "check"),
	roomed("CHK-2", orderOfWork, Stop, "Whoever made a copy does not accept it alone for a close camera.", "check"),

	mapped("MAP-1", theMap, Stop, "An opening that the brief asks for stays free."),
	mapped("MAP-2", theMap, Warn, "Pieces that move keep a gap or overlap."),
	mapped("MAP-3", theMap, Stop, "Hair that shall stay free stays free."),
	mapped("MAP-4", theMap, Stop, "A piece that restricts the wearer has a written quick way out."),
}
