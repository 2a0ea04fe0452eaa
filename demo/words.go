package demo

// Everything here is invented for the demo.
var (
	towns = []string{"Quillmere", "Sandholt", "Varrow", "Ester Bay"}

	firstNames = []string{"Dana", "Ilse", "Marek", "Oona", "Tobin", "Petra", "Joss", "Wren", "Anselm", "Bryn", "Carys",
		"Dorrit", "Edda",
		"Florian", "Greta", "Halvar", "Ione", "Jarl", "Kestrel", "Linnea", "Milo", "Nerys", "Osric", "Pia", "Quentin",
		"Rosalind", "Sorrel",
		"Tamsin", "Ulric", "Verity", "Willa", "Xanthe", "Yorick", "Zelda"}
	lastNames = []string{"Aldermoor", "Birchall", "Corran", "Dunmarrow", "Eastlake", "Fenwold", "Garrowby", "Hallisk",
		"Ingersby", "Jessamy",
		"Kelderwick", "Larkhope", "Merrowdale", "Northcape", "Oakenrow", "Pellgrave", "Quayle-Marsh", "Ravensholt",
		"Stillwater", "Thornaby",
		"Underlea", "Vantreight", "Westerby", "Yarborne", "Ashgrove", "Brackenley", "Copplestone"}

	customerFirst = []string{"Harbour", "Mill Lane", "Old Quay", "Northgate", "Lantern", "Saltmarsh", "Juniper",
		"Copperfield", "Beacon", "Weir",
		"Orchard", "Tidewater", "Larch", "Granary", "Highmoor", "Foundry", "Seaview", "Willowbrook", "Kingfisher",
		"Stonebridge"}
	customerLast = []string{"Homes", "Properties", "Estates", "Housing Trust", "Hotels", "Care Group", "Offices",
		"Stores"}

	buildingFirst = []string{"Mill", "Harbour", "Rose", "Tower", "Bridge", "Castle", "Garden", "River", "Station",
		"Market", "Cathedral", "Windmill",
		"Dock", "Chapel", "Linden", "Poplar", "Meadow", "Cliff", "Anchor", "Heron", "Falcon", "Granite", "Amber", "Ivy"}
	buildingLast = []string{"House", "Court", "Point", "Place", "Hall", "Wharf", "Terrace", "Gate"}
	streets      = []string{"Ferry Road", "Lime Street", "Old Harbour Way", "Rope Walk", "Chapel Hill", "Salt Lane",
		"Weaver Street", "Bay Parade", "Mill Bank", "Tannery Row"}

	positions = []string{"Caretaker", "Facilities manager", "Site manager", "Receptionist", "Head of housing", "Porter",
		""}
	labels = []string{"North lift", "South lift", "East shaft", "West shaft", "Main lift", "Kitchen lift",
		"Car park lift", "Bed lift", "Stage lift", ""}
	models   = []string{"Orrin 4", "Orrin 6S", "Calder HX", "Calder 2", "Tarn 300", "Tarn 450", ""}
	problems = []string{"Door does not close", "Stops between floors", "Noise on the way up", "Alarm button is dead",
		"Does not answer calls",
		"Display is dark", "Jerks when it starts", "Light in the car is out", "Levels badly at the second floor",
		"Overload bell rings empty",
		"Oil under the car", "Door reopens again and again"}
	access = []string{"", "", "Keys at reception.", "Ring the porter’s bell twice.",
		"Machine room is on the roof; take a torch.", "Not before nine, there is a school in the house."}
	reasons = []string{"Training overdue", "Badge lost", "On leave"}

	packages = []struct {
		name, description string
		price             int
	}{
		{"Door overhaul, single", "New rollers, guides and contacts for one car door.", 480},
		{"Door overhaul, double", "As for a single door, both leaves.", 760},
		{"Rope set, light", "Ropes up to eight stops, fitted and tensioned.", 1890},
		{"Rope set, heavy", "Ropes above eight stops.", 3250},
		{"Brake service", "Linings, springs and a measured stopping test.", 640},
		{"Control cabinet clean-up", "Contacts cleaned, connections tightened, cards tested.", 390},
		{"Hydraulic seal change", "Seals and oil, with a pressure test.", 1420},
		{"Emergency light and alarm", "Battery, light and call unit.", 275},
		{"Guide rail alignment", "Measured and shimmed from pit to head.", 1180},
		{"Car interior refresh", "Floor, panels and light.", 2100},
		{"Pit pump", "A pump with a float switch, piped out.", 530},
		{"Landing indicator set", "Indicators for up to six landings.", 910}}
	partNames = []string{"Door roller", "Door contact", "Guide shoe", "Brake lining", "Relay card", "Push button",
		"Limit switch", "Travelling cable, per metre",
		"Oil buffer", "Speed governor rope", "Car fan", "Emergency battery", "Landing lamp", "Door motor", "Pit ladder"}
	partSizes = []string{"small", "medium", "large", "left", "right", "steel", "brass", "type A", "type B", "type C"}
	suppliers = []string{"Varrow Lift Parts", "Sandholt Spares", ""}
)
