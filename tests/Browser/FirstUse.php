<?php

namespace Tests\Browser;

use App\Models\Role;
use Illuminate\Support\Facades\DB;

/** Three foreign files and a target of another language: what a first use begins with. */
trait FirstUse
{
    use OwnBrowser;

    protected function setUp(): void
    {
        parent::setUp();
        $this->user(Role::Lead);
        $this->browser = new Browser;
    }

    /** A new application of another language than the files, with lists, a check and keys of two columns. */
    private function shop(): string
    {
        $database = self::emptyOther();
        DB::unprepared("CREATE TABLE $database.party (id INT AUTO_INCREMENT PRIMARY KEY, reference VARCHAR(12) NOT NULL UNIQUE,
            name VARCHAR(60) NOT NULL, town VARCHAR(40), standing VARCHAR(10) NOT NULL CHECK (standing IN ('gold','silver','none')),
            birth_date DATE) ENGINE=InnoDB");
        DB::unprepared("CREATE TABLE $database.article (id INT AUTO_INCREMENT PRIMARY KEY, code VARCHAR(12) NOT NULL UNIQUE,
            description VARCHAR(60) NOT NULL, price DECIMAL(8,2) NOT NULL CHECK (price > 0)) ENGINE=InnoDB");
        DB::unprepared("CREATE TABLE $database.purchase (id INT AUTO_INCREMENT PRIMARY KEY, party INT NOT NULL, article INT NOT NULL,
            bought_on DATE NOT NULL, quantity INT NOT NULL, FOREIGN KEY (party) REFERENCES party (id),
            FOREIGN KEY (article) REFERENCES article (id)) ENGINE=InnoDB");

        return $database;
    }

    /** @return list<string> paths of three files with German headers */
    private function files(): array
    {
        $folder = self::work('first-use');
        @mkdir($folder, 0777, true);
        $people = "KundenNr;Bezeichnung;Ort;Rang;GebDatum\n";
        for ($i = 1; $i <= 60; $i++) {
            $people .= sprintf("K%04d;Kunde Nummer %d;%s;%s;%02d.%02d.19%02d\n", $i, $i, ['Kiel', 'Laboe', 'Husum'][$i % 3],
                ['GOLD', 'Silver', 'none'][$i % 3], 13 + $i % 15, 1 + $i % 12, 40 + $i % 50);
        }
        $goods = "ArtikelNr;Beschreibung;Preis\n";
        for ($i = 1; $i <= 40; $i++) {
            $goods .= sprintf("A-%03d;Ware %s;%d,%02d\n", $i, chr(65 + $i % 26), $i, $i);
        }
        $sales = "Beleg;Pos;KundenNr;ArtikelNr;Kaufdatum;Menge\n";
        for ($i = 0; $i < 200; $i++) {
            $sales .= sprintf("B%03d;%d;K%04d;A-%03d;%02d.%02d.2025;%d\n", intdiv($i, 2), 1 + $i % 2, 1 + $i % 60, 1 + $i % 40,
                13 + $i % 15, 1 + $i % 12, 1 + $i % 9);
        }
        foreach (['kunden.csv' => $people, 'artikel.csv' => $goods, 'verkauf.csv' => $sales] as $name => $text) {
            file_put_contents("$folder/$name", $text);
        }

        return ["$folder/kunden.csv", "$folder/artikel.csv", "$folder/verkauf.csv"];
    }

    /** @return array<string, string> what the form that begins a migration is given */
    private function given(string $database): array
    {
        return ['name' => 'First', 'target_name' => 'shop', 'host' => '127.0.0.1', 'port' => (string) getenv('DB_PORT'),
            'database' => $database, 'username' => 'harbour', 'password' => (string) getenv('HARBOUR_OFFICE_PASSWORD')];
    }
}
