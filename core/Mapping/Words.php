<?php

namespace Baggage\Core\Mapping;

use Baggage\Core\Expressions\Functions\Text;

/** Words of names in the tables of trade, in some languages and as they are abbreviated, by one word for all. common practice, no source */
final class Words
{
    private const ALIKE = [
        'date' => 'dt dat datum fecha data dato date',
        'name' => 'nm nam naam nombre nome navn namn nom bezeichnung benaming',
        'surname' => 'nachname familienname achternaam apellido apellidos cognome etternavn efternamn efternavn lastname',
        'given' => 'vorname voornaam prenom fornavn fornamn firstname forename',
        'number' => 'no nr num nummer numero numer',
        'phone' => 'tel telephone mob telefon telefono telefoon telefone handy mobil',
        'email' => 'mail epost correo courriel',
        'address' => 'addr adresse adres direccion indirizzo adress anschrift',
        'street' => 'strt str strasse straat rue calle via gate gata gade vei vej',
        'postcode' => 'zip plz postleitzahl codepostal cap postnr postnummer postleitz',
        'town' => 'city ort stadt ville ciudad citta plaats stad poststed',
        'country' => 'ctry land pays pais paese',
        'quantity' => 'qty anzahl menge quantite cantidad quantita aantal antal antall',
        'total' => 'amt tot amount betrag summe montant importe importo bedrag belop belopp sum gesamt',
        'price' => 'preis prix precio prezzo prijs pris',
        'description' => 'desc beschreibung descripcion descrizione omschrijving beskrivelse beskrivning',
        'text' => 'txt',
        'note' => 'bemerkung notiz anmerkung remarque nota opmerking merknad anmarkning notes remark remarks comment',
        'type' => 'typ art kind sorte soort',
        'code' => 'cd kode',
        'status' => 'zustand estado stato etat',
        'registration' => 'reg kennzeichen immatriculation matricula',
        'length' => 'loa len laenge longueur longitud lunghezza lengte lengde langd',
        'width' => 'breite largeur ancho larghezza breedte bredde bredd beam',
        'weight' => 'gewicht poids peso vekt vikt wt',
        'party' => 'cust customer kunde kunden client cliente klant kund debitor',
        'starts' => 'from start begin beginn von debut inicio inizio van fra',
        'ends' => 'to end until ende bis fin fine til',
        'birth' => 'geburt geburtsdatum geb naissance nacimiento nascita geboorte foedt fodsel dob birthdate',
        'invoice' => 'inv rechnung facture factura fattura factuur faktura',
        'agreement' => 'agr contract vertrag contrat contrato contratto avtale',
        'year' => 'jahr annee ano anno jaar ar yr',
        'built' => 'baujahr build',
        'month' => 'monat mois mes mese maand maned',
        'currency' => 'curr cur waehrung wahrung devise moneda valuta valuuta',
        'article' => 'art artikel item product produkt produit producto prodotto',
        'unit' => 'einheit unite unidad unita eenheid enhet',
        'order' => 'ord auftrag bestellung commande pedido ordine bestelling ordre',
        'supplier' => 'lieferant fournisseur proveedor fornitore leverancier leverandor kreditor vendor',
        'group' => 'gruppe groupe grupo gruppo groep grp',
        'active' => 'aktiv actif activo attivo actief',
        'blocked' => 'gesperrt bloque bloqueado bloccato geblokkeerd sperret',
        'deleted' => 'geloescht geloscht supprime borrado cancellato verwijderd slettet',
        'created' => 'erstellt angelegt cree creado creato aangemaakt opprettet',
        'changed' => 'geaendert geandert modifie modificado modificato gewijzigd endret updated modified',
        'language' => 'lang sprache langue idioma lingua taal sprak',
        'gender' => 'sex geschlecht sexe sexo sesso geslacht kjonn',
        'title' => 'titel titre titulo titolo anrede salutation',
        'company' => 'firma societe empresa azienda bedrijf organisation organization',
        'discount' => 'rabatt remise descuento sconto korting',
        'tax' => 'vat mwst tva iva btw mva ust steuer',
        'stock' => 'bestand lager existencias scorta voorraad beholdning',
        'harbour' => 'hafen port puerto porto haven havn harbor',
        'vessel' => 'boat ship craft schiff boot bateau navire barco nave schip skip fartoy',
        'berth' => 'liegeplatz slip mooring amarre ormeggio ligplaats batplass',
        'owner' => 'eigner eigentuemer halter proprietaire propietario proprietario eigenaar eier',
        'latitude' => 'breitengrad latitud latitudine breddegrad',
        'longitude' => 'lng laengengrad langengrad longitud longitudine lengdegrad',
        'region' => 'bundesland province provincia land staat',
        'fraction' => 'decimals digits nachkommastellen',
    ];

    /** What joins two words to one in German, Dutch and the languages of the north. */
    private const JOINTS = ['', 's', 'n', 'en', 'es', 'e', 'er'];

    private const REMEMBERED = 5_000;

    /** @var array<string, string>|null */
    private static ?array $of = null;

    /** @var array<array-key, list<string>> */
    private static array $in = [];

    /** The word that stands for this one and its like in other languages. */
    public static function of(string $word): string
    {
        return self::known()[$word] ?? $word;
    }

    /**
     * The words of a name: "GeburtsDatum", "birth_date" and "GEBURTSDATUM" are birth and date.
     *
     * @return list<string> each once
     */
    public static function in(string $name): array
    {
        if (count(self::$in) > self::REMEMBERED) {
            self::$in = [];
        }

        return self::$in[$name] ??= self::split($name);
    }

    /** @return list<string> */
    private static function split(string $name): array
    {
        $name = (string) preg_replace('/(?<=[a-z])(?=[A-Z0-9])|(?<=[A-Z])(?=[A-Z][a-z])/', ' ', (string) Text::plain($name));
        $words = [];
        foreach (preg_split('/[^a-z0-9]+/', strtolower($name), -1, PREG_SPLIT_NO_EMPTY) ?: [] as $word) {
            array_push($words, ...self::parts($word));
        }

        return array_values(array_unique($words));
    }

    /**
     * How much two words say the same: 1 for one word, less for one that is cut short or written a little otherwise.
     *
     * @return float 0 where they have nothing to do with each other
     */
    public static function alike(string $a, string $b): float
    {
        if ($a === $b) {
            return 1.0;
        }
        [$short, $long] = strlen($a) <= strlen($b) ? [$a, $b] : [$b, $a];
        if (preg_match('/^[a-z]{2,}$/', $short) !== 1 || preg_match('/^[a-z]+$/', $long) !== 1) {
            return 0.0;
        }
        if (strlen($short) >= 3 && str_starts_with($long, $short)) {
            return 0.8;
        }
        // Only consonants, or next to only, in their order: qty of quantity.
        $isBones = strlen($short) <= 4 && strlen($long) >= strlen($short) + 3 && $short[0] === $long[0]
            && preg_match('/^.[^aeiou]+$/', $short) === 1
            && preg_match('/^'.implode('.*', str_split($short)).'/', $long) === 1;

        return $isBones ? 0.6 : (strlen($short) >= 5 && levenshtein($short, $long) === 1 ? 0.8 : 0.0);
    }

    /** @return list<string> a word of two that are known, as these two */
    private static function parts(string $word): array
    {
        $known = self::known();
        if (isset($known[$word]) || strlen($word) < 6) {
            return [self::of($word)];
        }
        for ($at = strlen($word) - 2; $at >= 3; $at--) {
            $end = substr($word, $at);
            foreach (isset($known[$end]) ? self::JOINTS : [] as $joint) {
                $begin = substr($word, 0, $at);
                $begin = $joint === '' ? $begin : (str_ends_with($begin, $joint) ? substr($begin, 0, -strlen($joint)) : '');
                if (isset($known[$begin])) {
                    return [$known[$begin], $known[$end]];
                }
            }
        }

        return [$word];
    }

    /** @return array<string, string> */
    private static function known(): array
    {
        if (self::$of === null) {
            self::$of = [];
            foreach (self::ALIKE as $one => $others) {
                self::$of[$one] = $one;
                foreach (explode(' ', $others) as $other) {
                    self::$of[$other] ??= $one;
                }
            }
        }

        return self::$of;
    }
}
