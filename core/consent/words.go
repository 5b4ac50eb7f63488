package consent

import "strings"

// Words are what the program itself says to visitors about consent.
type Words struct {
	// What a new notice asks.
	May                          string
	Accept, Reject, Choose, Save string
	// Of the rules that only tell.
	Fine, Object string
	// On the small control that asks again, and on the ways around an answer.
	Again, Yours, Receipt, Erase string
	// What stands where a frame would: %s is what it is for.
	Missing, Allow string
	// A privacy signal came and counts.
	Signal string
	// Heads of the inventory.
	Name, By, For, Lasts string
	Session, Ever        string
	Always               string

	purposes map[string]PurposeWords
}

// InLanguage returns the words in a language, English where there are none.
func InLanguage(tag string) Words {
	base, _, _ := strings.Cut(strings.ToLower(tag), "-")
	if w, ok := words[base]; ok {
		return w
	}
	return words["en"]
}

// Speaks reports whether the words are in a language, not only in the one that is
// used where there are none.
func (w Words) Speaks(tag string) bool {
	base, _, _ := strings.Cut(strings.ToLower(tag), "-")
	return words[base].May == w.May
}

// Known reports whether a purpose brings its words along.
func Known(id string) bool { _, ok := words["en"].purposes[id]; return ok }

var words = map[string]Words{
	"en": {
		May:    "May we keep things on your device that the site could do without? You can change your mind at any time.",
		Accept: "Accept all", Reject: "Reject all", Choose: "Choose", Save: "Save my choice", Fine: "All right",
		Object: "Object",
		Again:  "Privacy choices", Yours: "Your answer", Receipt: "Download the receipt", Erase: "Erase my answer",
		Missing: "This part comes from %s and needs your consent to: %s.", Allow: "Allow and show it",
		Signal: "Your browser asks sites not to sell or share what they learn of you. We do as it says.",
		Name:   "Name", By: "From", For: "What for", Lasts: "Kept for", Session: "this visit", Ever: "until you remove it",
		Always: "always on",
		purposes: map[string]PurposeWords{
			Necessary:     {"Strictly necessary", "What the site cannot do without: it is always on."},
			"preferences": {"Preferences", "Remembers how you set things up here."},
			"measurement": {"Audience measurement", "Counts visits, so that we learn what is used."},
			"marketing":   {"Marketing", "Shows you offers that fit you, here and on other sites."},
		},
	},
	"de": {
		May: "Dürfen wir auf Ihrem Gerät etwas ablegen, das die Website nicht unbedingt braucht? Sie können es sich " +
			"jederzeit anders überlegen.",
		Accept: "Alle annehmen", Reject: "Alle ablehnen", Choose: "Auswählen", Save: "Auswahl speichern", Fine: "In Ordnung",
		Object: "Widersprechen",
		Again:  "Datenschutz-Auswahl", Yours: "Ihre Antwort", Receipt: "Beleg herunterladen", Erase: "Meine Antwort löschen",
		Missing: "Dieser Teil kommt von %s und braucht Ihre Einwilligung zu: %s.", Allow: "Erlauben und anzeigen",
		Signal: "Ihr Browser bittet darum, dass nichts über Sie verkauft oder weitergegeben wird. Daran halten wir uns.",
		Name:   "Name", By: "Von", For: "Wofür", Lasts: "Aufbewahrt", Session: "während dieses Besuchs",
		Ever: "bis Sie es entfernen", Always: "immer an",
		purposes: map[string]PurposeWords{
			Necessary:     {"Unbedingt erforderlich", "Ohne das geht es nicht: immer an."},
			"preferences": {"Einstellungen", "Merkt sich, wie Sie hier etwas eingestellt haben."},
			"measurement": {"Reichweitenmessung", "Zählt Besuche, damit wir sehen, was genutzt wird."},
			"marketing":   {"Marketing", "Zeigt Ihnen passende Angebote, hier und anderswo."},
		},
	},
	"pl": {
		May: "Czy możemy przechowywać na twoim urządzeniu to, bez czego strona mogłaby się obejść? Zdanie możesz " +
			"zmienić w każdej chwili.",
		Accept: "Zgadzam się na wszystko", Reject: "Odrzucam wszystko", Choose: "Wybieram", Save: "Zapisz mój wybór",
		Fine: "W porządku", Object: "Sprzeciwiam się",
		Again: "Wybór prywatności", Yours: "Twoja odpowiedź", Receipt: "Pobierz potwierdzenie", Erase: "Usuń moją odpowiedź",
		Missing: "Ta część pochodzi od: %s i wymaga zgody na: %s.", Allow: "Zezwól i pokaż",
		Signal: "Twoja przeglądarka prosi, by nie sprzedawać ani nie przekazywać danych o tobie. Stosujemy się do tego.",
		Name:   "Nazwa", By: "Od", For: "Cel", Lasts: "Przechowywane", Session: "podczas tej wizyty",
		Ever: "do usunięcia przez ciebie", Always: "zawsze włączone",
		purposes: map[string]PurposeWords{
			Necessary:     {"Niezbędne", "Bez tego strona nie działa: zawsze włączone."},
			"preferences": {"Preferencje", "Pamięta twoje ustawienia na tej stronie."},
			"measurement": {"Pomiar oglądalności", "Liczy wizyty, byśmy wiedzieli, z czego się korzysta."},
			"marketing":   {"Marketing", "Pokazuje pasujące oferty, tutaj i na innych stronach."},
		},
	},
	"fr": {
		May: "Pouvons-nous garder sur votre appareil ce dont le site pourrait se passer ? Vous pouvez changer d’avis à " +
			"tout moment.",
		Accept: "Tout accepter", Reject: "Tout refuser", Choose: "Choisir", Save: "Enregistrer mon choix", Fine: "D’accord",
		Object: "S’opposer",
		Again:  "Choix de confidentialité", Yours: "Votre réponse", Receipt: "Télécharger le reçu",
		Erase:   "Effacer ma réponse",
		Missing: "Cette partie vient de %s et demande votre accord pour : %s.", Allow: "Autoriser et afficher",
		Signal: "Votre navigateur demande que rien de ce qui vous concerne ne soit vendu ni partagé. Nous le respectons.",
		Name:   "Nom", By: "De", For: "Pour", Lasts: "Conservé", Session: "pendant cette visite",
		Ever: "jusqu’à suppression", Always: "toujours actif",
		purposes: map[string]PurposeWords{
			Necessary:     {"Strictement nécessaire", "Le site ne marche pas sans : toujours actif."},
			"preferences": {"Préférences", "Se souvient de vos réglages ici."},
			"measurement": {"Mesure d’audience", "Compte les visites, pour savoir ce qui sert."},
			"marketing":   {"Marketing", "Vous montre des offres qui vous conviennent, ici et ailleurs."},
		},
	},
	"ar": {
		May:    "هل تسمح لنا بأن نحفظ على جهازك ما يمكن للموقع الاستغناء عنه؟ يمكنك تغيير رأيك في أي وقت.",
		Accept: "قبول الكل", Reject: "رفض الكل", Choose: "اختيار", Save: "حفظ اختياري", Fine: "حسنًا", Object: "اعتراض",
		Again: "خيارات الخصوصية", Yours: "إجابتك", Receipt: "تنزيل الإيصال", Erase: "محو إجابتي",
		Missing: "هذا الجزء من %s ويحتاج إلى موافقتك على: %s.", Allow: "السماح والعرض",
		Signal: "يطلب متصفحك عدم بيع ما يُعرف عنك أو مشاركته، ونحن نلتزم بذلك.",
		Name:   "الاسم", By: "من", For: "الغرض", Lasts: "مدة الحفظ", Session: "خلال هذه الزيارة", Ever: "حتى تزيله",
		Always: "مفعّل دائمًا",
		purposes: map[string]PurposeWords{
			Necessary:     {"ضروري تمامًا", "لا يعمل الموقع من دونه: مفعّل دائمًا."},
			"preferences": {"التفضيلات", "يتذكر إعداداتك هنا."},
			"measurement": {"قياس الجمهور", "يعدّ الزيارات لنعرف ما يُستخدم."},
			"marketing":   {"التسويق", "يعرض عروضًا تناسبك هنا وفي مواقع أخرى."},
		},
	},
}
