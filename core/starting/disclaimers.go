package starting

import "mastflag/core/bundle"

// disclaimers are statements that sites make, or have acknowledged, each with words
// that are right as they stand. Their keys name the topic of a document
// (document.Topics) that says the same at length.
var disclaimers = []occasion{
	disclaimer(
		"general",
		"General information",
		"What the site says is no advice on a visitor’s own case.",
		"info-circle",
		bundle.Bottom,
		bundle.AskRead,
		[3]string{
			"<p>What stands here is <strong>general information</strong>. It does not take the place of advice on your own " +
				"case.</p>",
			"<p>Was hier steht, sind <strong>allgemeine Informationen</strong>. Sie ersetzen keine Beratung im Einzelfall.</p>",
			"<p>Podane tu informacje mają <strong>charakter ogólny</strong>. Nie zastępują porady w konkretnej sprawie.</p>"},
	),
	disclaimer(
		"medical",
		"No medical advice",
		"The site speaks of health and illness.",
		"stethoscope",
		bundle.Bottom,
		bundle.AskRead,
		[3]string{
			"<p>This is <strong>no medical advice</strong>. It does not replace an examination or the advice of a doctor.</p>",
			"<p>Das ist <strong>keine medizinische Beratung</strong>. Es ersetzt weder Untersuchung noch ärztlichen Rat.</p>",
			"<p>To <strong>nie jest porada medyczna</strong>. Nie zastępuje badania ani porady lekarza.</p>"},
	),
	disclaimer("legal", "No legal advice", "The site speaks of law.", "scale", bundle.Bottom, bundle.AskRead, [3]string{
		"<p>This is <strong>no legal advice</strong>. Ask a lawyer about your own case.</p>",
		"<p>Das ist <strong>keine Rechtsberatung</strong>. Lassen Sie sich zu Ihrem Fall anwaltlich beraten.</p>",
		"<p>To <strong>nie jest porada prawna</strong>. W swojej sprawie należy zapytać prawnika.</p>"}),
	disclaimer(
		"financial",
		"No financial advice",
		"The site speaks of money and investments.",
		"coins",
		bundle.Bottom,
		bundle.AskRead,
		[3]string{
			"<p>This is <strong>no financial advice</strong>. Investments can lose all of their value.</p>",
			"<p>Das ist <strong>keine Finanzberatung</strong>. Anlagen können ihren ganzen Wert verlieren.</p>",
			"<p>To <strong>nie jest porada finansowa</strong>. Inwestycje mogą stracić całą wartość.</p>"},
	),
	disclaimer(
		"advertising",
		"Advertising links",
		"You are paid if visitors buy through some links.",
		"link",
		bundle.Bottom,
		bundle.AskRead,
		[3]string{
			"<p>Some links here are <strong>advertising</strong>: we are paid if you buy through them. Your price stays the " +
				"same.</p>",
			"<p>Manche Links hier sind <strong>Werbung</strong>: Wir bekommen Geld, wenn Sie darüber kaufen. Ihr Preis bleibt " +
				"gleich.</p>",
			"<p>Niektóre odnośniki to <strong>reklama</strong>: otrzymujemy zapłatę za zakupy przez nie. Cena pozostaje taka " +
				"sama.</p>"},
	),
	disclaimer(
		"safety",
		"Safety before an activity",
		"Visitors have to know the risks before they book or take part.",
		"lifebuoy",
		bundle.Centre,
		bundle.AskAcknowledge,
		[3]string{
			"<p><strong>Before you take part:</strong> please read about the risks, and what we ask of you.</p>",
			"<p><strong>Bevor Sie teilnehmen:</strong> Bitte lesen Sie, welche Risiken es gibt und worum wir Sie bitten.</p>",
			"<p><strong>Przed wzięciem udziału:</strong> prosimy przeczytać o ryzyku i o tym, o co prosimy.</p>"},
	),
	disclaimer(
		"age",
		"Age",
		"What follows is not for everyone’s age.",
		"rating-18-plus",
		bundle.Cover,
		bundle.AskDeclare,
		[3]string{
			"<p>What follows is meant for people of <strong>18 years or more</strong>.</p>",
			"<p>Was folgt, ist für Menschen ab <strong>18 Jahren</strong> bestimmt.</p>",
			"<p>Dalsze treści są przeznaczone dla osób, które mają co najmniej <strong>18 lat</strong>.</p>"},
		[3]string{
			"I am 18 or older",
			"Ich bin 18 oder älter",
			"Mam 18 lat lub więcej",
		},
		[3]string{"I am younger", "Ich bin jünger", "Jestem młodszy lub młodsza"},
	),
	disclaimer(
		"views",
		"Personal views",
		"What you write is not the view of an employer or a partner.",
		"message-circle",
		bundle.Bottom,
		bundle.AskRead,
		[3]string{
			"<p>The <strong>views</strong> on this site are those of whoever writes them, and of nobody else.</p>",
			"<p>Die <strong>Ansichten</strong> auf dieser Website sind die der jeweils Schreibenden und von niemandem " +
				"sonst.</p>",
			"<p><strong>Poglądy</strong> w tym serwisie są poglądami ich autorów i nikogo innego.</p>"},
	),
	disclaimer(
		"machine",
		"Made or translated by a machine",
		"A text was not written by a person.",
		"robot",
		bundle.Top,
		bundle.AskRead,
		[3]string{
			"<p>This text was made or translated <strong>by a machine</strong> and may have faults.</p>",
			"<p>Dieser Text wurde <strong>von einer Maschine</strong> verfasst oder übersetzt und kann Fehler haben.</p>",
			"<p>Ten tekst napisała lub przetłumaczyła <strong>maszyna</strong> i może on zawierać błędy.</p>"},
	),
	disclaimer(
		"external",
		"External links",
		"Links lead to sites that are not yours.",
		"external-link",
		bundle.Bottom,
		bundle.AskRead,
		[3]string{
			"<p>Some links lead to <strong>sites of others</strong>, on which we have no influence.</p>",
			"<p>Manche Links führen zu <strong>Websites anderer</strong>, auf die wir keinen Einfluss haben.</p>",
			"<p>Niektóre odnośniki prowadzą do <strong>serwisów innych podmiotów</strong>, na które nie mamy wpływu.</p>"},
	),
	disclaimer(
		"prices",
		"Prices and availability",
		"Prices and stock change faster than the site.",
		"tag",
		bundle.Bottom,
		bundle.AskRead,
		[3]string{
			"<p><strong>Prices and availability</strong> can change at any time. What counts is what you see when you " +
				"order.</p>",
			"<p><strong>Preise und Verfügbarkeit</strong> können sich jederzeit ändern. Es gilt, was Sie bei der Bestellung " +
				"sehen.</p>",
			"<p><strong>Ceny i dostępność</strong> mogą się zmienić. Liczy się to, co widać przy zamówieniu.</p>"},
	),
	disclaimer(
		"recording",
		"Recording of an event",
		"Pictures or sound are recorded where people come.",
		"camera",
		bundle.Bottom,
		bundle.AskRead,
		[3]string{
			"<p>At this event <strong>pictures, sound and video</strong> are recorded, and may be published.</p>",
			"<p>Bei dieser Veranstaltung werden <strong>Bilder, Ton und Video</strong> aufgenommen und vielleicht " +
				"veröffentlicht.</p>",
			"<p>Podczas wydarzenia powstają <strong>zdjęcia, nagrania dźwięku i wideo</strong>, które mogą zostać " +
				"opublikowane.</p>"},
	),
}

// disclaimer is a statement about a topic; those that have to be answered lead
// whoever does not answer to the home page.
func disclaimer(
	topic, name, when, icon string,
	slot bundle.Slot,
	ask bundle.Ask,
	says [3]string,
	buttons ...[3]string,
) occasion {
	o := occasion{
		key:       "disclaimer-" + topic,
		purpose:   Disclaimers,
		name:      name,
		when:      when,
		hint:      calm,
		icon:      icon,
		slot:      slot,
		kind:      bundle.KindDisclaimer,
		closed:    "P30D",
		says:      says,
		disclaims: &bundle.Disclaimer{Ask: ask},
	}
	if ask != bundle.AskRead {
		o.disclaims.OnDecline, o.closed, o.butHome = "/", "", true
	}
	copy(o.buttons[:], buttons)
	return o
}
