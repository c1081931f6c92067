<?php

namespace Demo;

use App\Support\WorkbookFile;
use PDO;
use Random\Engine\Mt19937;
use Random\Randomizer;

/** What the four systems hold besides people, craft, agreements and invoices, in the forms those systems keep it in. */
final class OtherSystems
{
    private readonly Randomizer $random;

    /**
     * @param  list<string>  $berths  "INV/007"
     * @param  array<int, array{string, string, bool, string}>  $people  number → name, postcode, is organisation, country
     * @param  list<array{string, string, int, int, bool}>  $invoices  year, number, cents, party, whether it is loaded
     * @param  array<int, string>  $parties  number → what becomes of it
     */
    public function __construct(
        private readonly float $scale,
        int $seed,
        private readonly string $out,
        private readonly AnswerKey $key,
        private readonly array $berths,
        private readonly array $people,
        private readonly array $invoices,
        private readonly array $parties,
    ) {
        $this->random = new Randomizer(new Mt19937($seed + 1));
    }

    public function write(PDO $berthbook): void
    {
        $this->pontoons($berthbook);
        $this->office();
        $this->workshop();
        $this->lines();
        $this->payments();
        $this->mandates();
    }

    private function pontoons(PDO $db): void
    {
        $db->exec('CREATE TABLE pontoon (PONTOON TEXT, HARB TEXT, PART_OF TEXT, LENGTH_M REAL)');
        $insert = $db->prepare('INSERT INTO pontoon VALUES (?, ?, ?, ?)');
        $n = $this->scaled(60);
        $harbours = array_keys(Names::HARBOUR);
        $links = ['made' => 0, 'waiting' => 0];
        for ($i = 1; $i <= $n; $i++) {
            $of = $i > 7 && $i % 3 === 0 ? sprintf('P-%03d', $i - 7) : null;
            // One hangs on nothing that exists, and two are each other's ancestors.
            $of = match ($i) {
                20 => 'P-999',
                30 => 'P-037',
                37 => 'P-030',
                default => $of,
            };
            $this->key->row('Pontoons', $i, $i === 20 ? 'rejected' : 'loaded', $i === 20 ? 'orphan' : '');
            if ($of !== null && $i !== 20) {
                $links[$of === 'P-020' ? 'waiting' : 'made']++;
            }
            $insert->execute([sprintf('P-%03d', $i), $harbours[$i % 7], $of, $this->random->getInt(80, 600) / 10]);
        }
        $this->key->links['Pontoons.part_of'] = $links;
        $this->key->extract('BB/pontoon', $n, []);
        $this->key->planted('BB/pontoon', 'orphans', 1);
        $this->key->planted('BB/pontoon', 'own_ancestor', 2);
    }

    private function office(): void
    {
        $book = new WorkbookFile("$this->out/OF/office.xlsx");
        $n = $this->scaled(9000);
        $lost = max(1, (int) round(18 * $this->scale));
        $formulas = 0;
        $rows = (function () use ($n, $lost, &$formulas) {
            yield ['Orrin Sound Harbours: meter readings'];
            yield ['kept by the office, one line a month'];
            yield [];
            yield $header = ['Harbour', 'Berth', 'Read on', 'kWh', 'Used', 'By', 'Remark'];
            $metered = array_values(array_filter($this->berths, fn ($b, $i) => $i % 3 === 0, ARRAY_FILTER_USE_BOTH));
            $step = intdiv($n, $lost);
            $row = 0;
            $seen = [];
            for ($i = 1; $i <= $n; $i++) {
                if ($i === intdiv($n, 2)) {
                    $this->key->row('Meter readings', ++$row, 'excluded', 'repeated_header');
                    yield $header;
                }
                [$harbour, $slip] = explode('/', $metered[$i % count($metered)]);
                while ($i % $step === 0 && $slip[0] !== '0') {
                    [$harbour, $slip] = explode('/', $metered[$this->random->getInt(0, count($metered) - 1)]);
                }
                $formulas++;
                $written = $i % $step === 0 ? (string) (int) $slip : $slip;
                $twice = isset($seen[($id = "$harbour/$written/".intdiv($i * 3000, $n))]);
                $seen[$id] = true;
                $this->key->row(
                    'Meter readings',
                    ++$row,
                    $twice ? 'rejected' : 'loaded',
                    $twice ? 'duplicate_key' : '',
                );
                yield [
                    $harbour,
                    $i % $step === 0 ? (int) $slip : $slip,
                    ['date', 40_179 + intdiv($i * 3000, $n)],
                    $this->random->getInt(100, 99_999),
                    ['formula', $this->random->getInt(0, 400)],
                    $this->pick(Names::FIRST),
                    $i % 97 === 0 ? 'estimated' : null,
                ];
            }
            $this->key->row('Meter readings', ++$row, 'excluded', 'total_row');
            yield ['Total', null, null, ['formula', 449_551_200]];
            $formulas++;
        })();
        $book->sheet('Meter readings', $rows, ['A1:F1']);
        $this->key->extract('OF/readings', $n + 2, [
            'repeated_header' => 1,
            'total_row' => 1,
            'lost_zeros:Berth' => $lost,
            'formulas' => $formulas,
            'merged_cells' => 1,
        ]);

        $w = $this->scaled(120);
        $book->sheet(
            'Waiting list',
            (function () use ($w) {
                yield ['Waiting list', null, null, null, null];
                yield [];
                yield ['Ref', 'Name', 'Since', 'Length m', 'Deposit', 'Wants'];
                for ($i = 1; $i <= $w; $i++) {
                    yield [
                        sprintf('W%03d', $i),
                        $this->name(),
                        ['date', $this->random->getInt(36_526, 43_831)],
                        $this->random->getInt(40, 200) / 10,
                        ['money', $this->random->getInt(0, 4) * 50],
                        $this->pick(['power', 'water', 'power, water', 'shelter', '']),
                    ];
                }
            })(),
            ['A1:E1'],
        );
        $this->key->extract('OF/waiting list', $w, ['merged_cells' => 1]);

        $codes = [
            ['M6', 'Berth to 6 m', 412.5, 0.2],
            ['M8', 'Berth to 8 m', 560, 0.2],
            ['M10', 'Berth to 10 m', 735.25, 0.2],
            ['M12', 'Berth to 12 m', 940, 0.2],
            ['VIS', 'Visitor, a night', 24, 0.2],
            ['CRN', 'Crane, a lift', 65, 0.2],
            ['WTR', 'Fresh water', 2.5, 0],
            ['ELC', 'Electricity, kWh', 0.34, 0.05],
        ];
        $book->sheet(
            'Tariff codes',
            (function () use ($codes) {
                yield ['Code', 'Means', 'Price', 'VAT', 'Account'];
                foreach ($codes as [$code, $means, $price, $vat]) {
                    yield [
                        $code,
                        $means,
                        ['money', $price],
                        ['percent', $vat],
                        $code === 'WTR' ? ['error', '#N/A'] : 4000,
                    ];
                }
            })(),
        );
        $this->key->extract('OF/tariff codes', count($codes), ['error_cells' => 1]);
        $book->sheet('old lists', [['Not used since 2011']], [], true);
        $book->save();
    }

    private function workshop(): void
    {
        $jobs = fopen("$this->out/YL/jobs.jsonl", 'wb') ?: throw new \RuntimeException('YL/jobs.jsonl cannot be written.');
        $n = $this->scaled(1500);
        $parts = 0;
        $customers = [];
        for ($i = 1; $i <= $n; $i++) {
            $used = [];
            for ($p = $this->random->getInt(0, 3); $p > 0; $p--) {
                $used[] = [
                    'part' => $this->pick(['shackle', 'impeller', 'zinc anode', 'fan belt', 'gel coat', 'bilge pump']),
                    'qty' => $this->random->getInt(1, 6),
                    'price' => sprintf('%.2f', $this->random->getInt(150, 9000) / 100),
                ];
                $parts++;
            }
            $person = $this->people[$this->random->getInt(4, count($this->people))];
            $written = $i % 9 === 0 ? strtoupper($person[0]) : $person[0];
            $customers[mb_strtoupper($written)] = true;
            $this->key->row('Workshop jobs', $i, 'loaded');
            fwrite(
                $jobs,
                json_encode(
                    [
                        'job_no' => sprintf('Y%05d', $i),
                        'opened' => sprintf(
                            '%d-%02d-%02d',
                            $this->random->getInt(2001, 2016),
                            $this->random->getInt(1, 12),
                            $this->random->getInt(1, 28),
                        ),
                        'customer' => ['name' => $written, 'phone' => null],
                        'work' => $this->pick([
                            'antifouling',
                            'engine service',
                            'rigging',
                            'hull repair',
                            'winter storage',
                        ]),
                        'hours' => $this->random->getInt(1, 60) / 2,
                        'parts' => $used,
                    ],
                    JSON_UNESCAPED_UNICODE | JSON_THROW_ON_ERROR,
                )."\n",
            );
        }
        fclose($jobs);
        for ($i = 1; $i <= count($customers); $i++) {
            $this->key->row('Customers of the workshop', $i, 'loaded');
        }
        $this->key->extract('YL/jobs', $n, []);
        $this->key->extract('YL/customers', count($customers), []);
        $this->key->extract('YL/parts', $parts, []);

        $file = fopen("$this->out/YL/notes.txt", 'wb') ?: throw new \RuntimeException('YL/notes.txt cannot be written.');
        $m = $this->scaled(400);
        $notes = [];
        for ($i = 1; $i <= $m; $i++) {
            $note = sprintf(
                "%-7s%-10s%-4s%s\r\n",
                'Y'.sprintf('%05d', $this->random->getInt(1, $n)),
                sprintf(
                    '%02d.%02d.%04d',
                    $this->random->getInt(1, 28),
                    $this->random->getInt(1, 12),
                    $this->random->getInt(2001, 2016),
                ),
                $this->pick(['HM', 'SK', 'RB']),
                $this->pick([
                    'paid in cash',
                    'mast on rack 4',
                    'owner wants old parts back',
                    'see photo',
                    'hull blistered below waterline',
                ]),
            );
            fwrite($file, $note);
            $this->key->row(
                'Notes',
                $i,
                isset($notes[$note]) ? 'rejected' : 'loaded',
                isset($notes[$note]) ? 'duplicate_key' : '',
            );
            $notes[$note] = true;
        }
        fclose($file);
        $this->key->extract('YL/notes', $m, []);
    }

    private function lines(): void
    {
        $file = new LegacyFile("$this->out/AC/line.txt", '|', 'CP850', [
            'YEAR',
            'INV_NO',
            'LINE',
            'CODE',
            'QTY',
            'AMOUNT',
            'TEXT',
        ]);
        $rows = $wrong = 0;
        foreach ($this->invoices as $i => [$year, $number, $cents, , $loaded]) {
            $left = $cents;
            $n = 1 + (($i % 3) % 2) + ($i % 5 === 0 ? 1 : 0);
            // Some invoices do not add up: their last line is a pound short.
            $short = $i % 450 === 449 ? 100 : 0;
            $wrong += $short > 0 ? 1 : 0;
            for ($line = 1; $line <= $n; $line++) {
                $amount = $line === $n ? $left - $short : intdiv($cents, $n);
                $left -= $amount;
                $file->row([
                    $year,
                    $number,
                    (string) $line,
                    $this->pick(['M6', 'M8', 'M10', 'VIS', 'CRN', 'ELC']),
                    (string) $this->random->getInt(1, 12),
                    self::amount($amount),
                    $this->pick(['Berth dues', 'Crane à la carte', 'Møring ropes', 'Electricity']),
                ]);
                $this->key->row('Invoice lines', ++$rows, $loaded ? 'loaded' : 'held');
            }
        }
        $file->close();
        $this->key->extract('AC/line', $rows, []);
        $this->key->planted('AC/line', 'invoice_does_not_add_up', $wrong);
    }

    private function payments(): void
    {
        $file = new LegacyFile("$this->out/AC/payment.txt", '|', 'CP850', [
            'PAY_NO',
            'YEAR',
            'INV_NO',
            'CUST',
            'PAID_DT',
            'AMOUNT',
        ]);
        $n = min(count($this->invoices), $this->scaled(6000));
        $foreign = 0;
        for ($i = 0; $i < $n; $i++) {
            [$year, $number, $cents, $party, $loaded] = $this->invoices[$i];
            if ($i % 300 === 299) {
                $party = ($party % count($this->people)) + 1;
                $foreign++;
            }
            $state = $this->parties[$party];
            $this->key->row(
                'Payments',
                $i + 1,
                ...match (true) {
                    ! $loaded => ['held'],
                    $state === 'nobody' => ['rejected', 'orphan'],
                    $state === 'rejected' => ['held'],
                    default => ['loaded'],
                },
            );
            $file->row([
                sprintf('Z%06d', $i + 1),
                $year,
                $number,
                sprintf('BB-%05d', $party),
                sprintf('%02d%02d%s', $this->random->getInt(1, 28), $this->random->getInt(1, 12), substr($year, 2)),
                self::amount($cents),
            ]);
        }
        $file->close();
        $this->key->extract('AC/payment', $n, []);
        $this->key->planted('AC/payment', 'of_another_party', $foreign);
    }

    /** The export of direct debits stopped at its limit of 1,000 rows, in the middle of the last line. */
    private function mandates(): void
    {
        $path = "$this->out/AC/mandate.txt";
        $file = new LegacyFile($path, '|', 'CP850', ['CUST', 'IBAN', 'SIGNED']);
        $bad = 0;
        for ($i = 1; $i <= 1000; $i++) {
            $iban = self::iban('ORRN00'.sprintf('%012d', $this->random->getInt(1, 999_999_999)));
            if ($i % 111 === 0) {
                $iban = substr($iban, 0, 2).sprintf('%02d', ((int) substr($iban, 2, 2) + 5) % 97).substr($iban, 4);
                $bad++;
            }
            $file->row([
                sprintf('BB-%05d', $this->random->getInt(1, count($this->people))),
                $iban,
                sprintf(
                    '%02d%02d%02d',
                    $this->random->getInt(1, 28),
                    $this->random->getInt(1, 12),
                    $this->random->getInt(5, 18),
                ),
            ]);
        }
        $file->close();
        file_put_contents($path, substr((string) file_get_contents($path), 0, -4));
        $this->key->extract('AC/mandate', 1000, ['round_count' => 1, 'cut_off' => 1]);
        $this->key->planted('AC/mandate', 'wrong_check_digit', $bad);
    }

    /** ISO 13616: the check digits make the number, rearranged, leave 1 when divided by 97. */
    private static function iban(string $account): string
    {
        $digits = preg_replace_callback('/[A-Z]/', fn ($m) => (string) (ord($m[0]) - 55), $account.'GB00');
        $rest = 0;
        foreach (str_split((string) $digits) as $digit) {
            $rest = ($rest * 10 + (int) $digit) % 97;
        }

        return 'GB'.sprintf('%02d', 98 - $rest).$account;
    }

    private static function amount(int $cents): string
    {
        return number_format(abs($cents) / 100, 2, ',', '.').($cents < 0 ? '-' : '');
    }

    private function scaled(int $count): int
    {
        return max(80, (int) round($count * $this->scale));
    }

    private function name(): string
    {
        return $this->pick(Names::FIRST).' '.$this->pick(Names::LAST);
    }

    /** @param  list<string>  $list */
    private function pick(array $list): string
    {
        return $list[$this->random->getInt(0, count($list) - 1)];
    }
}
