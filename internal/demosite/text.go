package demosite

// text is all that the demo site says in one language. Everything in it is
// invented.
type text struct {
	Tag, Name                               string
	Tagline, Skip, Language                 string
	Home, HomeLead                          string
	HomeSections                            []section
	Title, Lead                             map[string]string
	Sections                                map[string][]section
	Route, Sailings, Crossing, Back         string
	RouteTitle, RouteLead                   string // from, to; from, to, minutes
	BeforeHead, BeforeBody                  string
	PortTitle, PortLead                     string // name; name, berths
	ParkingHead, ParkingBody                string // spaces
	AccessHead, AccessBody                  string
	FareHead, FareAdult, FareChild, FareCar string
	Privacy, Small, Acknowledged            string
	Book, Booked                            string
}

func (t text) fares() [][]string {
	out := [][]string{{t.FareHead, t.FareAdult, t.FareChild, t.FareCar}}
	for i, r := range routes {
		base := 6 + 2*i
		out = append(out, []string{r.From + " – " + r.To, price(base), price(base / 2), price(base * 4)})
	}
	return out
}

func price(pounds int) string {
	return "£" + string(rune('0'+pounds/10)) + string(rune('0'+pounds%10)) + ".00"
}

var languages = []text{
	{
		Tag: "en", Privacy: "Privacy choices", Acknowledged: "What I have acknowledged",
		Book:   "Book the 9:40 to Aldwick with a car, £49",
		Booked: "Your place is booked.", Name: "English",
		Tagline: "Five islands, one timetable", Skip: "Skip to the text", Language: "Language",
		Home: "Car ferries between the five isles", HomeLead: "From Sundrey to Little Skarn, every day of the year but " +
			"one. Bring the car, the bicycle, the dog and the time to look at the water.",
		HomeSections: []section{
			{"Sailing today?", "Look at the service status before you set out. In winter the sea has the last word."},
			{
				"Book a place for the car",
				"Foot passengers need no booking. Cars do on Fridays, Sundays and whenever there is a fair on Aldwick.",
			},
			{"Seals, and other neighbours", "From May to September the small boat goes out to the skerries at slack water."},
		},
		Title: map[string]string{
			"/timetables": "Timetables",
			"/ports":      "Ports",
			"/fares":      "Fares",
			"/book":       "Booking",
			"/offers":     "Offers",
			"/tours":      "Seal tours",
			"/tours/book": "Book a seal tour",
			"/status":     "Service status",
			"/news":       "News",
			"/about":      "About us",
			"/legal":      "Legal and privacy",
		},
		Lead: map[string]string{
			"/timetables": "All crossings at a glance. Times are local; the summer timetable begins on the last Sunday in " +
				"March.",
			"/ports":      "Where we land, how to get there, and where to leave the car.",
			"/fares":      "One way, for one crossing. Under fives travel free, and so do dogs.",
			"/book":       "Choose a crossing, a day and a car. We hold the place for twenty minutes.",
			"/offers":     "What is cheaper this season, and until when.",
			"/tours/book": "Pick a boat and a day. The skipper takes twelve people at most.",
			"/tours":      "Two hours among the skerries with a skipper who knows the seals by name.",
			"/status":     "What sails today, what does not, and when we will know more.",
			"/news":       "From the pier, the office and the engine room.",
			"/about":      "We have carried people, sheep and pianos between the isles since the causeway washed out.",
			"/legal":      "Who we are in law, how we carry you, and what we keep of you.",
		},
		Sections: map[string][]section{
			"/ports": {{
				"Five piers",
				"Sundrey, Aldwick, Corran Holm, Fennay and Little Skarn each have a page with berths, parking and access.",
			}},
			"/book": {
				{
					"Changing a booking",
					"Up to two hours before sailing, without charge. After that we keep the fare and give the place to someone else.",
				},
				{"Groups", "Ten people or more sail at the group fare. Write to us a week ahead."},
			},
			"/offers": {
				{"Winter day return", "There and back on one day for the price of one way, from November to March."},
				{"Island hopper", "All five islands in seven days on one ticket."},
			},
			"/tours/book": {
				{"Boats", "From Little Skarn at 10:00 and 13:00, every day that the sea allows it."},
				{"Prices", "34 crowns a person, 20 for children from four to twelve."},
			},
			"/tours": {
				{"What to wear", "More than you think. It is two degrees colder on the water."},
				{"Safety", "Life jackets are worn by all. Children under four stay ashore."},
			},
			"/status": {{
				"How we decide",
				"The master of each ship decides two hours before sailing. Above force eight the Fennay boats stay in.",
			}},
			"/news": {
				{"New ramp at Corran Holm", "From next month cars of any height can land at low water."},
				{
					"A thousandth crossing",
					"The small ferry made her thousandth crossing of the year last Tuesday, eleven minutes late.",
				},
				{"Quiet carriage", "The forward saloon is now kept without music."},
			},
			"/about": {
				{"The ships", "Three ferries and a tour boat, all built within sight of the isles."},
				{"Work with us", "We look for deck hands in spring."},
			},
			"/legal": {
				{"Conditions of carriage", "We carry you at our risk and your patience. The full text hangs in every saloon."},
				{"Privacy", "We keep your booking for two years and your e-mail address until you ask us not to."},
			},
		},
		Route: "Route", Sailings: "First – last", Crossing: "Crossing", Back: "Back",
		RouteTitle: "%s – %s", RouteLead: "%s to %s in %d minutes, whatever the tide.",
		BeforeHead: "Before you sail", BeforeBody: "Cars should be on the pier fifteen minutes before departure, people on " +
			"foot five.",
		PortTitle: "%s pier", PortLead: "Berths at %s: %d. There is a waiting room and a kettle.",
		ParkingHead: "Parking", ParkingBody: "%d spaces, free for the day of travel.",
		AccessHead: "Step-free access", AccessBody: "There is level access to every ship at all states of the tide. Ask " +
			"the crew if you want an arm.",
		FareHead: "Route", FareAdult: "Adult", FareChild: "Child", FareCar: "Car",
		Small: "An invented ferry company. No ship of this name sails.",
	},
	{
		Tag: "de", Privacy: "Datenschutz-Auswahl", Acknowledged: "Was ich zur Kenntnis genommen habe",
		Book: "Fahrt um 9:40 nach Aldwick mit Auto buchen, 49 £", Booked: "Ihr Platz ist gebucht.", Name: "Deutsch",
		Tagline: "Fünf Inseln, ein Fahrplan", Skip: "Zum Text springen", Language: "Sprache",
		Home: "Autofähren zwischen den fünf Inseln", HomeLead: "Von Sundrey bis Little Skarn, an jedem Tag des Jahres " +
			"außer einem. Nehmen Sie Auto, Fahrrad, Hund und etwas Zeit für den Blick aufs Wasser mit.",
		HomeSections: []section{
			{"Heute unterwegs?", "Sehen Sie vor der Abfahrt in die Betriebslage. Im Winter hat die See das letzte Wort."},
			{
				"Einen Autoplatz buchen",
				"Fußgänger brauchen keine Buchung. Autos brauchen eine freitags, sonntags und an Markttagen auf Aldwick.",
			},
			{"Robben und andere Nachbarn", "Von Mai bis September fährt das kleine Boot bei Stillwasser zu den Schären."},
		},
		Title: map[string]string{
			"/timetables": "Fahrpläne",
			"/ports":      "Häfen",
			"/fares":      "Fahrpreise",
			"/book":       "Buchung",
			"/offers":     "Angebote",
			"/tours":      "Robbentouren",
			"/tours/book": "Robbentour buchen",
			"/status":     "Betriebslage",
			"/news":       "Neuigkeiten",
			"/about":      "Über uns",
			"/legal":      "Rechtliches und Datenschutz",
		},
		Lead: map[string]string{
			"/timetables": "Alle Überfahrten auf einen Blick. Zeiten sind Ortszeit; der Sommerfahrplan beginnt am letzten " +
				"Sonntag im März.",
			"/ports":      "Wo wir anlegen, wie Sie hinkommen und wo das Auto bleibt.",
			"/fares":      "Einfache Fahrt, eine Überfahrt. Kinder unter fünf und Hunde fahren frei.",
			"/book":       "Überfahrt, Tag und Auto wählen. Wir halten den Platz zwanzig Minuten.",
			"/offers":     "Was in dieser Saison weniger kostet, und wie lange noch.",
			"/tours/book": "Wählen Sie Schiff und Tag. Der Schiffer nimmt höchstens zwölf Personen mit.",
			"/tours":      "Zwei Stunden zwischen den Schären mit einem Schiffer, der die Robben beim Namen kennt.",
			"/status":     "Was heute fährt, was nicht, und wann wir mehr wissen.",
			"/news":       "Vom Anleger, aus dem Kontor und aus dem Maschinenraum.",
			"/about":      "Seit der Damm weggespült wurde, bringen wir Menschen, Schafe und Klaviere von Insel zu Insel.",
			"/legal":      "Wer wir rechtlich sind, wie wir Sie befördern und was wir von Ihnen aufbewahren.",
		},
		Sections: map[string][]section{
			"/ports": {{
				"Fünf Anleger",
				"Sundrey, Aldwick, Corran Holm, Fennay und Little Skarn haben je eine Seite mit Liegeplätzen, Parkplätzen und " +
					"Zugang.",
			}},
			"/book": {
				{
					"Buchung ändern",
					"Bis zwei Stunden vor Abfahrt kostenlos. Danach behalten wir den Fahrpreis und vergeben den Platz.",
				},
				{"Gruppen", "Ab zehn Personen gilt der Gruppenpreis. Schreiben Sie uns eine Woche vorher."},
			},
			"/offers": {
				{"Winter-Tagesrückfahrt", "Hin und zurück an einem Tag zum Preis der einfachen Fahrt, von November bis März."},
				{"Inselhüpfer", "Alle fünf Inseln in sieben Tagen mit einer Karte."},
			},
			"/tours/book": {
				{"Schiffe", "Ab Little Skarn um 10 und um 13 Uhr, jeden Tag, an dem die See es zulässt."},
				{"Preise", "34 Kronen pro Person, 20 für Kinder von vier bis zwölf."},
			},
			"/tours": {
				{"Was Sie anziehen", "Mehr, als Sie denken. Auf dem Wasser ist es zwei Grad kälter."},
				{"Sicherheit", "Schwimmwesten trägt jeder. Kinder unter vier bleiben an Land."},
			},
			"/status": {{
				"Wie wir entscheiden",
				"Der Schiffsführer entscheidet zwei Stunden vor Abfahrt. Ab Windstärke neun bleiben die Boote nach Fennay im " +
					"Hafen.",
			}},
			"/news": {
				{"Neue Rampe auf Corran Holm", "Ab nächstem Monat können Autos jeder Höhe bei Niedrigwasser an Land."},
				{
					"Die tausendste Überfahrt",
					"Die kleine Fähre machte am Dienstag ihre tausendste Überfahrt des Jahres, elf Minuten zu spät.",
				},
			},
			"/about": {
				{"Die Schiffe", "Drei Fähren und ein Ausflugsboot, alle in Sichtweite der Inseln gebaut."},
				{"Arbeiten bei uns", "Im Frühjahr suchen wir Decksleute."},
			},
			"/legal": {
				{"Beförderungsbedingungen", "Der volle Text hängt in jedem Salon aus."},
				{"Datenschutz", "Wir bewahren Ihre Buchung zwei Jahre auf und Ihre Adresse, bis Sie widersprechen."},
			},
		},
		Route: "Strecke", Sailings: "Erste – letzte", Crossing: "Fahrzeit", Back: "Zurück",
		RouteTitle: "%s – %s", RouteLead: "Von %s nach %s in %d Minuten, bei jeder Tide.",
		BeforeHead: "Vor der Abfahrt", BeforeBody: "Autos stehen bitte fünfzehn Minuten vorher am Anleger, Fußgänger fünf.",
		PortTitle: "Anleger %s", PortLead: "Liegeplätze in %s: %d. Es gibt einen Warteraum und einen Wasserkocher.",
		ParkingHead: "Parken", ParkingBody: "%d Stellplätze, am Reisetag kostenlos.",
		AccessHead: "Stufenloser Zugang", AccessBody: "Zu jedem Schiff kommen Sie bei jedem Wasserstand stufenlos. Fragen " +
			"Sie die Mannschaft, wenn Sie einen Arm möchten.",
		FareHead: "Strecke", FareAdult: "Erwachsene", FareChild: "Kinder", FareCar: "Auto",
		Small: "Eine erfundene Reederei. Kein Schiff dieses Namens fährt.",
	},
	{
		Tag: "pl", Acknowledged: "Co przyjęto do wiadomości", Book: "Zarezerwuj rejs 9:40 na Aldwick z autem, 49 £",
		Booked: "Miejsce zarezerwowane.", Privacy: "Wybór prywatności", Name: "Polski",
		Tagline: "Pięć wysp, jeden rozkład", Skip: "Przejdź do treści", Language: "Język",
		Home: "Promy samochodowe między pięcioma wyspami", HomeLead: "Z Sundrey na Little Skarn, każdego dnia w roku z " +
			"wyjątkiem jednego. Zabierz samochód, rower, psa i trochę czasu, żeby popatrzeć na wodę.",
		HomeSections: []section{
			{"Płyniesz dzisiaj?", "Przed wyjściem sprawdź stan połączeń. Zimą ostatnie słowo należy do morza."},
			{
				"Zarezerwuj miejsce dla samochodu",
				"Piesi nie potrzebują rezerwacji. Samochody tak: w piątki, niedziele i w dni targowe na Aldwick.",
			},
			{"Foki i inni sąsiedzi", "Od maja do września mała łódź wypływa do szkierów."},
		},
		Title: map[string]string{
			"/timetables": "Rozkłady",
			"/ports":      "Porty",
			"/fares":      "Ceny",
			"/book":       "Rezerwacja",
			"/offers":     "Oferty",
			"/tours":      "Rejsy do fok",
			"/tours/book": "Rezerwacja rejsu do fok",
			"/status":     "Stan połączeń",
			"/news":       "Aktualności",
			"/about":      "O nas",
			"/legal":      "Informacje prawne i prywatność",
		},
		Lead: map[string]string{
			"/timetables": "Wszystkie rejsy w jednym miejscu. Godziny są lokalne; letni rozkład zaczyna się w ostatnią " +
				"niedzielę marca.",
			"/ports":      "Gdzie cumujemy, jak dojechać i gdzie zostawić samochód.",
			"/fares":      "W jedną stronę, za jeden rejs. Dzieci do lat pięciu i psy płyną za darmo.",
			"/book":       "Wybierz rejs, dzień i samochód. Trzymamy miejsce przez dwadzieścia minut.",
			"/offers":     "Co jest tańsze w tym sezonie i do kiedy.",
			"/tours/book": "Prosimy wybrać statek i dzień. Sternik zabiera najwyżej dwanaście osób.",
			"/tours":      "Dwie godziny między szkierami ze sternikiem, który zna foki po imieniu.",
			"/status":     "Co dziś płynie, co nie i kiedy będziemy wiedzieć więcej.",
			"/news":       "Z mola, z biura i z maszynowni.",
			"/about":      "Odkąd morze zabrało groblę, wozimy między wyspami ludzi, owce i fortepiany.",
			"/legal":      "Kim jesteśmy w świetle prawa, jak Was wozimy i co o Was przechowujemy.",
		},
		Sections: map[string][]section{
			"/ports": {{
				"Pięć przystani",
				"Sundrey, Aldwick, Corran Holm, Fennay i Little Skarn mają swoje strony z informacją o parkingu i dostępie.",
			}},
			"/book": {
				{"Zmiana rezerwacji", "Do dwóch godzin przed rejsem bezpłatnie."},
				{"Grupy", "Od dziesięciu osób obowiązuje cena grupowa."},
			},
			"/offers": {
				{"Zimowy bilet dzienny", "Tam i z powrotem jednego dnia w cenie jednego rejsu, od listopada do marca."},
				{"Pięć wysp", "Wszystkie wyspy w siedem dni na jednym bilecie."},
			},
			"/tours/book": {
				{"Statki", "Z Little Skarn o 10:00 i 13:00, w każdy dzień, na który pozwala morze."},
				{"Ceny", "34 korony od osoby, 20 za dzieci od czterech do dwunastu lat."},
			},
			"/tours": {
				{"Jak się ubrać", "Cieplej, niż myślisz. Na wodzie jest o dwa stopnie zimniej."},
				{"Bezpieczeństwo", "Kamizelki noszą wszyscy. Dzieci do lat czterech zostają na lądzie."},
			},
			"/status": {{"Jak decydujemy", "Kapitan decyduje dwie godziny przed rejsem."}},
			"/news": {
				{
					"Nowa rampa na Corran Holm", "Od przyszłego miesiąca samochody każdej wysokości zjadą na ląd przy niskiej wodzie.",
				},
				{"Tysięczny rejs", "We wtorek mały prom wykonał tysięczny rejs w tym roku, z jedenastoma minutami opóźnienia."},
			},
			"/about": {
				{"Statki", "Trzy promy i łódź wycieczkowa, wszystkie zbudowane w zasięgu wzroku od wysp."},
				{"Praca u nas", "Wiosną szukamy marynarzy."},
			},
			"/legal": {
				{"Warunki przewozu", "Pełny tekst wisi w każdym salonie."}, {"Prywatność", "Rezerwację przechowujemy dwa lata."},
			},
		},
		Route: "Trasa", Sailings: "Pierwszy – ostatni", Crossing: "Rejs", Back: "Powrót",
		RouteTitle: "%s – %s", RouteLead: "Z %s na %s w %d minut, niezależnie od pływu.",
		BeforeHead: "Przed rejsem", BeforeBody: "Samochody prosimy o przybycie na molo piętnaście minut wcześniej, " +
			"pieszych pięć.",
		PortTitle: "Przystań %s", PortLead: "%s: miejsca do cumowania: %d, poczekalnia i czajnik.",
		ParkingHead: "Parking", ParkingBody: "Miejsca: %d, bezpłatnie w dniu podróży.",
		AccessHead: "Dostęp bez stopni", AccessBody: "Na każdy statek można wejść bez stopni przy każdym stanie wody.",
		FareHead: "Trasa", FareAdult: "Dorosły", FareChild: "Dziecko", FareCar: "Samochód",
		Small: "Wymyślona firma promowa. Żaden statek o tej nazwie nie pływa.",
	},
}
