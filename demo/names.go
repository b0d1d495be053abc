package demo

// The Tern Islands and all that is on them are invented.

var (
	vesselFirst = []string{"Silver", "Morning", "Northern", "Grey", "Aurora", "Little", "Bonny", "Western", "Fair", "Ocean", "Golden", "Quiet", "Winter", "Harbour", "Star of", "Spirit of"}
	vesselLast  = []string{"Petrel", "Tide", "Wren", "Heron", "Skua", "Tern", "Fulmar", "Dawn", "Haven", "Ransel", "Corrie", "Kittiwake", "Selkie", "Lantern", "Brae", "Fathom", "Gannet", "Merrow", "Ness", "Sound"}
	given       = []string{"Magnus", "Isla", "Torquil", "Effie", "Rognvald", "Maren", "Callum", "Sunniva", "Erlend", "Brenna", "Hamish", "Astrid", "Ewan", "Solveig", "Lachlan", "Ragna"}
	family      = []string{"Tulloch", "Brandvold", "Halcro", "Mowat", "Strandberg", "Isbister", "Leask", "Fjeldsted", "Rendall", "Skorve", "Quoys", "Harcus", "Östling", "Drever", "Velzian", "Moodie"}
	species     = []string{"Haddock", "Saithe", "Cod", "Ling", "Tusk", "Mackerel", "Herring", "Plaice", "Lemon sole", "Monkfish", "Brown crab", "Velvet crab", "Norway lobster", "King scallop", "Squid", "Whiting"}
	firms       = []string{"Halloran & Finch", "Strandberg Sea Foods", "Quayside Smokery", "Möwe Handel", "Tarbat Brothers", "Islay Ice Company", "Corran Fish Merchants", "Peerie Kitchen", "Blue Door Market", "Ness & Daughters", "Orrin Cold Store", "Grimsetter Wholesale"}
	harbours    = []string{"Port Kestrel", "Gull Point", "Skerry Bay"}
	letters     = []string{"PK", "GP", "SB"}
	remarks     = []string{"iced", "part load", "see note", "graded on board", "second sale", "landed late, crew short", "boxes returned"}
)

// gears are the standard values with the ways in which the notes write them. The first
// rungs of evidence can tie every variant to its standard value; short forms are for
// the steward or a crosswalk.
var gears = []struct {
	standard string
	weight   int
	variants []string
	short    []string
}{
	{"Bottom trawl", 30, []string{"bottom trawl", "BOTTOM TRAWL", "Bottom trawl ", "Trawl, bottom", "Bottom  trawl"}, []string{"BT"}},
	{"Gill net", 20, []string{"GILL NET", "gill net ", "Net, gill", "Gill-net", "Gillnet"}, []string{"GN"}},
	{"Pots, traps", 15, []string{"pots, traps", "Pots/traps", "Traps, pots", "POTS, TRAPS"}, nil},
	{"Longline", 12, []string{"longline", "Long line", "LONGLINE", "Long-line "}, []string{"LL"}},
	{"Purse seine", 9, []string{"purse seine", "Purse  seine", "Seine, purse"}, nil},
	{"Dredge", 6, []string{"dredge", "DREDGE", " Dredge"}, nil},
	{"Hand line", 5, []string{"Handline", "hand line", "Hand-line"}, nil},
	{"Jig", 3, []string{"jig", "JIG "}, nil},
}
