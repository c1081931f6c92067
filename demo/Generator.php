<?php

namespace Demo;

use PDO;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * Writes the legacy systems of Orrin Sound Harbours, with defects in known rows, and the answer key.
 *
 * Same seed and scale, same bytes. Every defect sits in a row of its own, and what follows from it (children held, links
 * waiting) is worked out here without any code of the application, so the key can be held against it.
 */
final class Generator
{
    private readonly Randomizer $random;

    private readonly AnswerKey $key;

    private ?PDO $berthbook = null;

    /** @var array<int, string> party → loaded, updated, unchanged, rejected … by BB number */
    private array $parties = [];

    /** @var array<int, array{string, string, bool, string}> party → name, postcode, is organisation, country */
    private array $people = [];

    /** @var array<int, string> vessel → outcome */
    private array $vessels = [];

    /** @var array<int, string> agreement → outcome */
    private array $agreements = [];

    /** @var list<array{string, string, int, int, bool}> invoices as written: year, number, cents, party, whether it is loaded */
    private array $written = [];

    /** @var list<string> berth keys "INV/007" */
    private array $berths = [];

    public function __construct(private readonly float $scale, private readonly int $seed, private readonly string $out)
    {
        if ($scale <= 0 || $scale > 1000) {
            throw new \InvalidArgumentException('The scale lies between 0 and 1000.');
        }
        $this->random = new Randomizer(new Mt19937($seed));
        $this->key = new AnswerKey;
    }

    /** @return array<string, array<string, int>> load → outcomes, as in the answer key */
    public function write(): array
    {
        @mkdir("$this->out/BB", 0777, true);
        @unlink("$this->out/BB/berthbook.sqlite");
        $this->berthbook = new PDO("sqlite:$this->out/BB/berthbook.sqlite");
        $this->berthbook->exec('PRAGMA journal_mode = OFF; PRAGMA synchronous = OFF; BEGIN');
        $this->harbours();
        $this->slips();
        $this->people();
        $this->contacts();
        $this->craftAndAgreements();
        $this->invoices();
        @mkdir("$this->out/YL", 0777, true);
        (new OtherSystems(
            $this->scale,
            $this->seed,
            $this->out,
            $this->key,
            $this->berths,
            $this->people,
            $this->written,
            $this->parties,
        ))->write($this->berthbook);
        $this->berthbook->exec('COMMIT');
        copy(__DIR__.'/plan.yaml', "$this->out/plan.yaml");
        file_put_contents(
            "$this->out/answer-key.json",
            json_encode(
                [
                    'seed' => $this->seed,
                    'scale' => $this->scale,
                    'loads' => $this->key->loads,
                    'links' => $this->key->links,
                    'extracts' => $this->key->extracts,
                    'defects' => $this->key->defects,
                ],
                JSON_PRETTY_PRINT | JSON_UNESCAPED_UNICODE | JSON_THROW_ON_ERROR,
            ),
        );

        (new SecondDelivery($this->scale, $this->seed, $this->out, $this->key, $this->parties))->write();

        return array_map(fn ($l) => $l['outcomes'], $this->key->loads);
    }

    private function harbours(): void
    {
        $file = $this->berthbookFile('harbour', ['HARB', 'HARB_NAME', 'MASTER']);
        foreach (Names::HARBOUR as $code => $name) {
            $this->key->row(
                'Harbours',
                $this->put($file, 'harbour', [$code, $name, $this->pick(Names::LAST)]),
                'loaded',
            );
        }
        $file->close();
    }

    private function slips(): void
    {
        $file = $this->berthbookFile('slip', ['HARB', 'SLIP', 'MAX_FT', 'METER', 'REMARK']);
        for ($i = 0, $n = $this->scaled(640); $i < $n; $i++) {
            $harbour = array_keys(Names::HARBOUR)[$i % 7];
            $slip = sprintf('%03d', intdiv($i, 7) + 1);
            $this->berths[] = "$harbour/$slip";
            $row = $this->put($file, 'slip', [
                $harbour,
                $slip,
                (string) $this->random->getInt(18, 80),
                $i % 3 === 0 ? 'Y' : 'N',
                $i % 9 === 0 ? 'depth soft mud' : '',
            ]);
            $this->key->row('Berths', $row, 'loaded');
        }
        $file->close();
    }

    private function people(): void
    {
        $file = $this->berthbookFile('people', [
            'OWNER_NO',
            'NAME',
            'KIND',
            'EMAIL',
            'TEL',
            'STREET',
            'POSTCODE',
            'TOWN',
            'COUNTRY',
            'BILL_TO',
            'OLD_NO',
        ]);
        $n = $this->scaled(1000);
        // The first three are in the target already; what is typed there decides between updated and unchanged.
        $fixed = [
            1 => ['TARN & HOLM MARINE LTD', true, 'OS1 0001', 'updated'],
            2 => ['SKERRY BOATYARD', true, 'OS1 0002', 'updated'],
            3 => ['ELLINGSEN, MAUD', false, 'OS1 0003', 'unchanged'],
        ];
        $defects = $this->plant($n, 10, [
            'not_an_email' => 7,
            'no_new_value' => 6,
            'too_long' => 4,
            'required' => 2,
            'short_row' => 1,
            'long_row' => 1,
            'orphan' => 2,
            'not_a_phone' => 3,
            'duplicate_key' => 3,
        ]);
        $billTo = [];
        for ($i = 1; $i <= $n; $i++) {
            $defect = $defects[$i] ?? '';
            $organisation = $i % 4 === 0;
            $name = $this->personName($i);
            $postcode = sprintf('OS%d %04d', 1 + intdiv($i, 10000), $i % 10000);
            $country = $this->pick(['UK', 'UK', 'UK', 'UK', 'IRL', 'N', 'DK', 'D', 'NL', 'F', 'S']);
            if ($organisation) {
                $name = $this->organisationName($i).$this->pick([' LTD', ' LIMITED', ' CO. LTD.', '']);
            }
            $tidy = $name;
            $written = $organisation ? strtoupper($name) : mb_strtoupper($this->surnameFirst($name));
            $email = $i % 3 === 0 ? '' : "p$i@post.example";
            $phone = $this->phone($i);
            if (isset($fixed[$i])) {
                [$written, $organisation, $postcode] = $fixed[$i];
                $country = 'UK';
                $tidy = $i === 3 ? 'Maud Ellingsen' : $written;
                $email = $i === 3 ? 'maud.ellingsen@post.example' : "p$i@post.example";
                $phone = $i === 3 ? '0151 496 0003' : $phone;
            } elseif ($i % 61 === 0 && $defect === '' && ! $organisation) {
                // UTF-8 once read as Windows-1252; the rule mends it.
                $written = 'BjÃ¸rn KjÃ¦r '.$this->letters($i);
                $tidy = 'Bjørn Kjær '.$this->letters($i);
            }
            $this->people[$i] = [$tidy, $postcode, $organisation, $country];
            $number = $defect === 'duplicate_key' ? $i - 1 : $i;
            $bill = '';
            if ($i > 20 && $i % 23 === 0 && $defect === '') {
                $bill = $this->random->getInt(4, $i - 1);
                // A duplicate number is nobody's own.
                if (($defects[$bill] ?? '') === 'duplicate_key') {
                    $bill = 4;
                }
                $billTo[$i] = $bill;
            }
            $cells = [
                sprintf('%05d', $number),
                match ($defect) {
                    'too_long' => 'THE '.strtoupper($this->organisationName($i))
                        .' AND ASSOCIATED HARBOUR USERS OF THE OUTER ISLES LTD',
                    'required' => '  ',
                    default => $written,
                },
                $organisation ? 'O' : 'P',
                $defect === 'not_an_email' ? "p$i.post.example" : $email,
                $defect === 'not_a_phone' ? 'see file' : $phone,
                isset($fixed[$i])
                    ? "$i Slip Road"
                    : $this->random->getInt(1, 90).' '.$this->pick(['Slip Road', 'Pier Street', 'Net Loft Lane']),
                $postcode,
                isset($fixed[$i]) ? 'Inverlee' : $this->pick(Names::TOWN),
                $defect === 'no_new_value' ? ($i % 2 ? 'UKK' : 'SCO') : $country,
                $defect === 'orphan' ? '99'.sprintf('%03d', $i % 1000) : ($bill === '' ? '' : sprintf('%05d', $bill)),
                (string) (7000 + $i),
            ];
            if ($defect === 'short_row') {
                $cells = array_slice($cells, 0, 6);
            } elseif ($defect === 'long_row') {
                $cells[] = 'moved 1999';
            }
            $row = $this->put($file, 'people', $cells);
            $outcome = $defect !== '' ? 'rejected' : $fixed[$i][3] ?? 'loaded';
            $this->parties[$i] = $defect === 'duplicate_key' ? 'nobody' : $outcome;
            $this->key->row('Parties of Berthbook', $row, $outcome, $defect);
        }
        $file->close();
        $loaded = count(array_filter($billTo, fn ($b) => $this->hasKey($this->parties[$b])));
        $this->key->links['Parties of Berthbook.bill_to'] = ['made' => $loaded, 'waiting' => count($billTo) - $loaded];
    }

    private function contacts(): void
    {
        $header = ['Ref', 'Name', 'Type', 'E-mail', 'Telephone', 'Street', 'Post code', 'Town', 'Country', 'Balance'];
        $file = new LegacyFile("$this->out/OF/contacts.csv", ';', 'UTF-8', $header);
        $n = $this->scaled(300);
        $shared = array_values(
            array_filter(array_keys($this->people), fn ($i) => $i > 3 && $this->hasKey($this->parties[$i])),
        );
        $taken = [];
        for ($i = 1; $i <= $n; $i++) {
            $ref = sprintf('C%04d', $i);
            if ($i === intdiv($n, 2)) {
                // The header again, where two sheets were pasted together.
                $this->key->row('Parties of the office sheets', $file->row($header), 'excluded', 'repeated_header');
            }
            $balance = number_format($this->random->getInt(-50000, 900000) / 100, 2, ',', '.');
            if ($i % 5 < 3 && count($taken) < count($shared)) {
                do {
                    $of = $shared[$this->random->getInt(0, count($shared) - 1)];
                } while (isset($taken[$of]));
                $taken[$of] = true;
                [$name, $postcode, $organisation] = $this->people[$of];
                $name = $organisation
                    ? preg_replace('/ (LTD|LIMITED|CO\. LTD\.)$/', '', $name)
                        .$this->pick([' Ltd', ' Limited', ', Ltd.', '', ' LTD'])
                    : ($i % 2
                        ? $name
                        : mb_strtolower($name));
                $row = $file->row([
                    $ref,
                    $name,
                    $organisation ? 'company' : 'private',
                    '',
                    '',
                    '',
                    $this->pick([$postcode, str_replace(' ', '', $postcode)]),
                    '',
                    'GB',
                    $balance,
                ]);
                $this->key->row('Parties of the office sheets', $row, 'merged', 'duplicate');
            } else {
                $name = $this->personName(500000 + $i);
                $row = $file->row([
                    $ref,
                    $name,
                    'private',
                    "c$i@post.example",
                    $this->phone($i),
                    'Net Loft Lane '.$i,
                    sprintf('OS9 %04d', $i),
                    $this->pick(Names::TOWN),
                    'GB',
                    $balance,
                ]);
                $this->key->row('Parties of the office sheets', $row, 'loaded');
            }
        }
        $this->key->row(
            'Parties of the office sheets',
            $file->row(['', 'Total', '', '', '', '', '', '', '', '1.204.117,50']),
            'excluded',
            'total_row',
        );
        $file->close();
    }

    private function craftAndAgreements(): void
    {
        $n = $this->scaled(900);
        $a = $this->scaled(1100);
        $file = $this->berthbookFile('craft', [
            'CRAFT_NO',
            'CRAFT_NAME',
            'REG_NO',
            'OWNER_NO',
            'CRAFT_TYPE',
            'BUILT',
            'LOA_FT',
            'DRAUGHT',
            'AGR_NO',
            'SURVEY_DT',
            'OLD_NO',
        ]);
        $defects = $this->plant($n, 5, [
            'orphan' => 4,
            'taken' => 4,
            'no_new_value' => 9,
            'not_a_date' => 7,
            'too_long' => 5,
            'check_failed' => 2,
            'required' => 2,
            'orphan_agreement' => 2,
        ]);
        $people = count($this->people);
        $firstRegistration = '';
        $currentOf = [];
        for ($i = 1; $i <= $n; $i++) {
            $defect = $defects[$i] ?? '';
            do {
                $owner = $this->random->getInt(1, $people);
            } while ($this->parties[$owner] === 'nobody' || ($defect !== '' && ! $this->hasKey($this->parties[$owner])));
            $registration = $i % 7 === 0 && $defect !== 'taken' ? '' : sprintf('ss %d', 100 + $i);
            if ($i === 1) {
                $firstRegistration = $registration;
            }
            $agreement = $i <= $a && $i % 10 !== 0 ? $i : 0;
            $type = $this->pick(['M/V', 'YT', 'YT', 'F/V', 'TUG', 'BGE', 'RIB', 'DGY']);
            $day = sprintf('%02d/%02d', $this->random->getInt(1, 28), $this->random->getInt(1, 12));
            $built = match (true) {
                $defect === 'not_a_date' => '31/02/2003',
                $i % 17 === 0 => '00/00/00',
                $i % 2 === 0 => $day.'/'.sprintf('%02d', $this->random->getInt(70, 99)),
                default => $day.'/'.$this->random->getInt(1970, 2019),
            };
            $feet = $this->random->getInt(14, 90);
            $name = $this->pick(Names::VESSEL);
            $row = $this->put($file, 'craft', [
                "CR-$i",
                match ($defect) {
                    'too_long' => 'Her Majesty of the Outer Skerries and Northern Firths '.$i,
                    'required' => '',
                    default => ['  '.strtolower($name), strtoupper($name).' ', $name][$i % 3],
                },
                $defect === 'taken' ? strtoupper($firstRegistration) : $registration,
                $defect === 'orphan' ? '98'.sprintf('%03d', $i % 1000) : sprintf('%05d', $owner),
                $defect === 'no_new_value' ? ($i % 3 ? 'MFV' : 'X?') : $type,
                $built,
                $defect === 'check_failed' ? '900' : ($i % 4 === 0 ? "$feet' 6\"" : (string) $feet),
                $i % 8 === 0 ? '' : number_format($this->random->getInt(40, 320) / 100, 2, ',', ''),
                $defect === 'orphan_agreement' ? 'A-99999' : ($agreement ? sprintf('A-%05d', $agreement) : ''),
                $i % 4 === 0 ? $day.'/'.$this->random->getInt(91, 99) : '',
                (string) (31000 + $i),
            ]);
            $outcome = match (true) {
                $defect !== '' => 'rejected',
                ! $this->hasKey($this->parties[$owner]) => 'held',
                default => 'loaded',
            };
            $this->vessels[$i] = $outcome;
            if ($outcome === 'loaded' && $agreement) {
                $currentOf[$i] = $agreement;
            }
            $this->key->row('Vessels', $row, $outcome, $defect === 'orphan_agreement' ? 'orphan' : $defect);
        }
        $file->close();
        $this->agreements($a, $n);
        $made = count(array_filter($currentOf, fn ($g) => $this->agreements[$g] === 'loaded'));
        $this->key->links['Vessels.current_agreement'] = ['made' => $made, 'waiting' => count($currentOf) - $made];
    }

    private function agreements(int $n, int $vessels): void
    {
        $file = $this->berthbookFile('agreement', [
            'AGR_NO',
            'CUST_NO',
            'CRAFT_NO',
            'HARB',
            'SLIP',
            'FROM_DT',
            'TO_DT',
            'RENT',
            'STATUS',
        ]);
        $defects = $this->plant($n, 1, [
            'orphan_craft' => 5,
            'lost_zeros' => 12,
            'not_a_date' => 3,
            'check_failed' => 3,
            'not_a_number' => 2,
        ]);
        $people = count($this->people);
        for ($i = 1; $i <= $n; $i++) {
            $defect = $defects[$i] ?? '';
            $cancelled = $defect === '' && $i % 25 === 0;
            $vessel = $i <= $vessels ? $i : $this->random->getInt(1, $vessels);
            // A planted row fails for its own defect alone, so its parents are sound.
            while ($defect !== '' && $this->vessels[$vessel] !== 'loaded') {
                $vessel = $this->random->getInt(1, $vessels);
            }
            do {
                $party = $this->random->getInt(1, $people);
            } while ($this->parties[$party] === 'nobody' || ($defect !== '' && ! $this->hasKey($this->parties[$party])));
            do {
                [$harbour, $slip] = explode('/', $this->berths[$this->random->getInt(0, count($this->berths) - 1)]);
            } while ($defect === 'lost_zeros' && $slip[0] !== '0');
            $year = $this->random->getInt(1995, 2018);
            $from = sprintf('%02d/%02d/%d', $this->random->getInt(1, 28), $this->random->getInt(1, 12), $year);
            $row = $this->put($file, 'agreement', [
                sprintf('A-%05d', $i),
                sprintf('%05d', $party),
                $defect === 'orphan_craft' ? "CR-9$i".'000' : "CR-$vessel",
                $harbour,
                $defect === 'lost_zeros' ? ltrim($slip, '0') : $slip,
                $defect === 'not_a_date' ? '30/02/'.$year : $from,
                $defect === 'check_failed' ? '01/01/1990' : ($i % 3 ? '' : '31/12/'.($year + 1)),
                $defect === 'not_a_number'
                    ? 'as agreed'
                    : number_format($this->random->getInt(20000, 450000) / 100, 2, '.', ','),
                $cancelled ? 'C' : ($i % 6 ? 'A' : 'E'),
            ]);
            $outcome = match (true) {
                $cancelled => 'excluded',
                $defect !== '' => 'rejected',
                ! $this->hasKey($this->parties[$party]), $this->vessels[$vessel] !== 'loaded' => 'held',
                default => 'loaded',
            };
            $this->agreements[$i] = $outcome;
            $this->key->row(
                'Agreements',
                $row,
                $outcome,
                $cancelled
                    ? 'cancelled'
                    : match ($defect) {
                        'orphan_craft', 'lost_zeros' => 'orphan',
                        default => $defect,
                    },
            );
        }
        $file->close();
    }

    private function invoices(): void
    {
        $file = new LegacyFile("$this->out/AC/invoice.txt", '|', 'CP850', [
            'YEAR',
            'INV_NO',
            'CUST',
            'INV_DATE',
            'AMOUNT',
            'TEXT',
            'BATCH',
        ]);
        $n = $this->scaled(6500);
        $defects = $this->plant($n, 3, ['orphan' => 8, 'not_a_date' => 6, 'not_a_number' => 4, 'duplicate_key' => 5]);
        $people = count($this->people);
        $previous = [1998, 0];
        for ($i = 1; $i <= $n; $i++) {
            $defect = $defects[$i] ?? '';
            do {
                $party = $this->random->getInt(1, $people);
            } while ($this->parties[$party] === 'nobody' || ($defect !== '' && ! $this->hasKey($this->parties[$party])));
            $year = 1998 + intdiv(($i - 1) * 20, $n);
            $cents = $this->random->getInt(500, 250000);
            $amount = number_format($cents / 100, 2, ',', '.').($i % 40 === 0 ? '-' : '');
            $cells = [
                (string) $year,
                sprintf('%06d', $i),
                $defect === 'orphan' ? 'BB-97'.sprintf('%03d', $i % 1000) : sprintf('BB-%05d', $party),
                $defect === 'not_a_date'
                    ? '3102'.substr((string) $year, 2)
                    : sprintf(
                        '%02d%02d%s',
                        $this->random->getInt(1, 28),
                        $this->random->getInt(1, 12),
                        substr((string) $year, 2),
                    ),
                $defect === 'not_a_number' ? 'void' : $amount,
                $this->pick(['Berth dues', 'Crane à la carte', 'Møring ropes', 'Electricity', 'Lift & launch']),
                (string) intdiv($i, 50),
            ];
            if ($defect === 'duplicate_key') {
                [$cells[0], $cells[1]] = [(string) $previous[0], sprintf('%06d', $previous[1])];
            } elseif ($defect === '' && $this->hasKey($this->parties[$party])) {
                $previous = [$year, $i];
            }
            $row = $file->row($cells);
            if ($defect === '') {
                $this->written[] = [
                    (string) $year,
                    sprintf('%06d', $i),
                    $i % 40 === 0 ? -$cents : $cents,
                    $party,
                    $this->hasKey($this->parties[$party]),
                ];
            }
            $this->key->row(
                'Invoices',
                $row,
                match (true) {
                    $defect !== '' => 'rejected',
                    $this->hasKey($this->parties[$party]) => 'loaded',
                    default => 'held',
                },
                $defect,
            );
        }
        $file->close();
    }

    private function hasKey(string $outcome): bool
    {
        return in_array($outcome, ['loaded', 'updated', 'unchanged', 'merged'], true);
    }

    /**
     * @param  array<string, int>  $counts  defect → how many at scale 1
     * @return array<int, string> row → defect, one each, none among the first rows
     */
    private function plant(int $rows, int $from, array $counts): array
    {
        $planted = [];
        foreach ($counts as $defect => $count) {
            for (
                $i = 0, $n = max(1, (int) round($count * min(1.0, $this->scale * 4) * max(1.0, $this->scale)));
                $i < $n;
                $i++
            ) {
                do {
                    $row = $this->random->getInt($from + 1, $rows);
                    // Neighbours stay clean: a duplicate key repeats the number of the row before it.
                } while (
                    isset($planted[$row])
                    || isset($planted[$row - 1])
                    || isset($planted[$row + 1])
                    || $row === intdiv($rows, 2)
                );
                $planted[$row] = $defect;
            }
        }

        return $planted;
    }

    private function scaled(int $count): int
    {
        return max(80, (int) round($count * $this->scale));
    }

    /** @param  list<string>  $header */
    private function berthbookFile(string $table, array $header): LegacyFile
    {
        $this->berthbook?->exec("CREATE TABLE $table (".implode(', ', array_map(fn ($c) => "$c TEXT", $header)).')');

        return new LegacyFile("$this->out/BB/$table.txt", ',', 'WINDOWS-1252', $header);
    }

    /** @param  list<string>  $cells */
    private function put(LegacyFile $file, string $table, array $cells): int
    {
        $count = ['harbour' => 3, 'slip' => 5, 'people' => 11, 'craft' => 11, 'agreement' => 9][$table];
        $values = implode(
            ',',
            array_map(fn ($c) => $this->berthbook?->quote($c), array_slice(array_pad($cells, $count, ''), 0, $count)),
        );
        $this->berthbook?->exec("INSERT INTO $table VALUES ($values)");

        return $file->row($cells);
    }

    /** @param  list<string>  $list */
    private function pick(array $list): string
    {
        return $list[$this->random->getInt(0, count($list) - 1)];
    }

    private function personName(int $i): string
    {
        return $this->pick(Names::FIRST).' '.$this->pick(Names::LAST);
    }

    private function surnameFirst(string $name): string
    {
        [$first, $last] = explode(' ', $name, 2);

        return "$last, $first";
    }

    private function organisationName(int $i): string
    {
        return $this->pick(Names::PLACE).' '.$this->pick(Names::TRADE);
    }

    private function letters(int $i): string
    {
        return strtr((string) $i, '0123456789', 'abcdefghij');
    }

    /** A telephone number in one of ten shapes (digits from a range kept for fiction). */
    private function phone(int $i): string
    {
        $last = sprintf('%04d', $i % 1000);
        $number = '496'.$last;

        return match ($i % 10) {
            0 => '',
            1 => "0151 496 $last",
            2 => "(0151) 496-$last",
            3 => "0151496$last",
            4 => "+44 151 496 $last",
            5 => "0044 151 496 $last",
            6 => "0151-$number",
            7 => "0151/$number",
            8 => "+44 (0)151 496 $last",
            default => "0151.496.$last",
        };
    }
}
