package starting

import (
	"time"

	"mastflag/core/bundle"
)

// occasional are what comes up now and then, each with words that are right as they stand.
var occasional = []occasion{
	{
		key:     "precautions",
		purpose: Hours,
		name:    "Precautions",
		when:    "You are open, and take care that all stay well.",
		hint:    calm,
		icon:    "shield-check",
		until:   end{days: 14, hour: 24},
		closed:  "P3D",
		months:  winter,
		says: [3]string{
			"<p><strong>We are open</strong>, and take precautions so that everyone stays well.</p>",
			"<p><strong>Wir haben geöffnet</strong> und treffen Vorkehrungen, damit alle gesund bleiben.</p>",
			"<p><strong>Jesteśmy otwarci</strong> i zachowujemy środki ostrożności, by wszyscy byli zdrowi.</p>",
		},
	},
	{
		key:     "power-cut",
		purpose: Hours,
		name:    "Power cut",
		when:    "Electricity fails, and some things do not work.",
		hint:    caution,
		icon:    "bolt-off",
		level:   bundle.Warning,
		until:   end{hour: 24},
		closed:  "session",
		says: [3]string{
			"<p><strong>Power cut.</strong> Today we may not be able to answer the phone or take cards.</p>",
			"<p><strong>Stromausfall.</strong> Heute sind Telefon und Kartenzahlung vielleicht nicht möglich.</p>",
			"<p><strong>Brak prądu.</strong> Dziś telefon i płatność kartą mogą nie działać.</p>",
		},
	},
	{
		key:     "road-works",
		purpose: Hours,
		name:    "Road works at the entrance",
		when:    "The way to you is another for a while.",
		hint:    caution,
		icon:    "barrier-block",
		until:   end{days: 14, hour: 24},
		closed:  "P1D",
		says: [3]string{
			"<p><strong>Road works at our entrance.</strong> Please allow some more time, and follow the signs.</p>",
			"<p><strong>Bauarbeiten vor unserem Eingang.</strong> Bitte planen Sie etwas mehr Zeit ein und folgen Sie den " +
				"Schildern.</p>",
			"<p><strong>Roboty drogowe przy wejściu.</strong> Prosimy zaplanować więcej czasu i kierować się znakami.</p>",
		},
	},
	{
		key:     "opening-soon",
		purpose: Hours,
		name:    "Opening soon",
		when:    "You open, or open again, on a day that is known.",
		hint:    glad,
		icon:    "building-store",
		until:   end{days: 14, on: time.Saturday, week: true, hour: 9},
		closed:  "P1D",
		counts:  true,
		says: [3]string{
			"<p><strong>We open soon</strong> at {address}. Time to go: {countdown}</p>",
			"<p><strong>Wir öffnen bald</strong>: {address}. Noch {countdown}</p>",
			"<p><strong>Wkrótce otwieramy</strong>: {address}. Pozostało: {countdown}</p>",
		},
	},
	{
		key:     "fraud",
		purpose: Warnings,
		name:    "Fraud in our name",
		when:    "Someone calls or writes and says they are you.",
		hint:    grave,
		icon:    "shield-exclamation",
		level:   bundle.Warning,
		kind:    bundle.KindAlert,
		until:   end{days: 28, hour: 24},
		closed:  "P7D",
		says: [3]string{
			"<p><strong>Fraud in our name.</strong> We never ask for passwords or codes by phone or by mail. If in doubt, " +
				"hang up and call us: <a href=\"tel:{telephone}\">{telephone}</a>.</p>",
			"<p><strong>Betrug in unserem Namen.</strong> Nach Passwörtern oder Codes fragen wir nie am Telefon oder per " +
				"E-Mail. Im Zweifel legen Sie auf und rufen uns an: <a href=\"tel:{telephone}\">{telephone}</a>.</p>",
			"<p><strong>Oszustwo w naszym imieniu.</strong> Nigdy nie prosimy o hasła ani kody przez telefon lub e-mail. W " +
				"razie wątpliwości prosimy się rozłączyć i zadzwonić do nas: <a href=\"tel:{telephone}\">{telephone}</a>.</p>",
		},
	},
	{
		key:     "special-day",
		purpose: Offers,
		name:    "Special day",
		when:    "People order for a day, and have to do so before it.",
		hint:    glad,
		icon:    "gift",
		level:   bundle.Promotion,
		until:   end{days: 7, on: time.Thursday, week: true, hour: 12},
		closed:  "P1D",
		months:  []time.Month{time.February, time.May, time.November, time.December},
		says: [3]string{
			"<p><strong>For the special day:</strong> please order by Thursday noon.</p>",
			"<p><strong>Für den besonderen Tag:</strong> Bitte bestellen Sie bis Donnerstagmittag.</p>",
			"<p><strong>Na ten szczególny dzień:</strong> prosimy zamawiać do czwartku w południe.</p>",
		},
	},
	{
		key:     "greeting",
		purpose: News,
		name:    "Season’s greeting",
		when:    "You wish everyone well as the year ends.",
		hint:    glad,
		icon:    "snowflake",
		until:   end{days: 14, hour: 24},
		closed:  "P30D",
		months:  []time.Month{time.December},
		says: [3]string{
			"<p><strong>A good end to the year</strong>, and a happy new one, from all of us.</p>",
			"<p><strong>Einen guten Ausklang des Jahres</strong> und ein frohes neues wünschen wir alle.</p>",
			"<p><strong>Dobrego zakończenia roku</strong> i szczęśliwego nowego życzymy my wszyscy.</p>",
		},
	},
	{
		key:     "staff-wanted",
		purpose: News,
		name:    "Staff wanted",
		when:    "You look for people to work with you.",
		hint:    calm,
		icon:    "users-plus",
		level:   bundle.Promotion,
		until:   end{days: 28, hour: 24},
		closed:  "P30D",
		says: [3]string{
			"<p><strong>Work with us.</strong> We are looking for people: write to <a href=\"mailto:{email}\">{email}</a>.</p>",
			"<p><strong>Arbeiten Sie mit uns.</strong> Wir suchen Verstärkung: Schreiben Sie an " +
				"<a href=\"mailto:{email}\">{email}</a>.</p>",
			"<p><strong>Dołącz do nas.</strong> Szukamy pracowników: napisz na <a href=\"mailto:{email}\">{email}</a>.</p>",
		},
	},
	{
		key:     "exams",
		purpose: Hours,
		name:    "Exam period",
		when:    "Exams are held, and other things have to wait.",
		hint:    calm,
		icon:    "school",
		until:   end{days: 14, hour: 24},
		closed:  "P1D",
		months:  []time.Month{time.January, time.May, time.June, time.July},
		says: [3]string{
			"<p><strong>Exams are on.</strong> Please keep quiet in the corridors; some rooms are closed.</p>",
			"<p><strong>Prüfungszeit.</strong> Bitte seien Sie auf den Fluren leise; einige Räume sind geschlossen.</p>",
			"<p><strong>Trwają egzaminy.</strong> Prosimy o ciszę na korytarzach; niektóre sale są zamknięte.</p>",
		},
	},
	{
		key:     "apology",
		purpose: News,
		name:    "Apology",
		when:    "Something went wrong, and you say so.",
		hint:    calm,
		icon:    "mood-sad",
		until:   end{days: 7, hour: 24},
		closed:  "P7D",
		says: [3]string{
			"<p><strong>We are sorry.</strong> Something went wrong on our side, and we are putting it right.</p>",
			"<p><strong>Das tut uns leid.</strong> Bei uns ist etwas schiefgegangen, und wir bringen es in Ordnung.</p>",
			"<p><strong>Przepraszamy.</strong> Coś po naszej stronie się nie udało i już to naprawiamy.</p>",
		},
	},
}

// winter is when people are ill more often.
var winter = []time.Month{time.October, time.November, time.December, time.January, time.February, time.March}
