<?php

namespace Baggage\Core\Mapping;

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
        'year' => 'jahr annee ano anno jaar ar',
        'built' => 'baujahr build',
    ];

    /** @var array<string, string>|null */
    private static ?array $of = null;

    /** The word that stands for this one and its like in other languages. */
    public static function of(string $word): string
    {
        if (self::$of === null) {
            self::$of = [];
            foreach (self::ALIKE as $one => $others) {
                foreach (explode(' ', $others) as $other) {
                    self::$of[$other] ??= $one;
                }
            }
        }

        return self::$of[$word] ?? $word;
    }
}
