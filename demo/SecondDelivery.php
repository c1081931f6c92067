<?php

namespace Demo;

use PDO;
use Random\Engine\Mt19937;
use Random\Randomizer;

/**
 * What the four systems deliver some weeks later: rows that came, changed and went, files in another order, defects repaired at source
 * and new ones. What must come of it is worked out here from the first delivery's answer key, without any code of the application.
 */
final class SecondDelivery
{
    private readonly Randomizer $random;

    /**
     * @var array<string, array{rows: int, added: int, gone: int, changed: int, records_changed: int, removed: int, older: int,
     *      outcomes: array<string, int>}>
     */
    private array $loads = [];

    /** @var array<string, array{made: int, waiting: int}> */
    private array $links;

    /** @var array<string, array<int, true>> load → rows something was done to */
    private array $touched = [];

    /** @param  array<int, string>  $parties  number → what became of it */
    public function __construct(
        private readonly float $scale,
        private readonly int $seed,
        private readonly string $first,
        private readonly AnswerKey $key,
        private readonly array $parties,
    ) {
        $this->random = new Randomizer(new Mt19937($seed + 2));
        $this->links = $key->links;
    }

    public function write(): void
    {
        foreach (['BB', 'OF', 'YL', 'AC'] as $system) {
            @mkdir("$this->first/second/$system", 0777, true);
            foreach (glob("$this->first/$system/*") ?: [] as $file) {
                copy($file, "$this->first/second/$system/".basename($file));
            }
        }
        copy("$this->first/plan.yaml", "$this->first/second/plan.yaml");
        foreach ($this->key->loads as $load => $of) {
            $this->loads[$load] = [
                'rows' => $of['rows'], 'added' => 0, 'gone' => 0, 'changed' => 0, 'records_changed' => 0, 'removed' => 0, 'older' => 0,
                'outcomes' => $of['outcomes'],
            ];
        }
        $this->people();
        $this->contacts();
        $this->craft();
        $this->agreements();
        $this->pontoons();
        $this->readings();
        $this->jobs();
        $this->notes();
        $this->payments($this->invoices());
        file_put_contents("$this->first/second/answer-key.json", json_encode([
            'seed' => $this->seed, 'scale' => $this->scale, 'loads' => $this->loads, 'links' => $this->links,
        ], JSON_PRETTY_PRINT | JSON_UNESCAPED_UNICODE | JSON_THROW_ON_ERROR));
    }

    private function people(): void
    {
        $load = 'Parties of Berthbook';
        [$header, $rows] = $this->read('BB/people.txt', ',', 'WINDOWS-1252');
        foreach ($this->some($load, 20) as $row) {
            $rows[$row][5] = $this->random->getInt(1, 90).' Harbour Row';
        }
        $this->changed($load, 20);
        // Somebody wrote nonsense over a good address: the record keeps the one it has.
        foreach ($this->some($load, 2) as $row) {
            $rows[$row][3] = "p$row.post.example";
        }
        $this->changed($load, 2, 0);
        $this->move($load, 'loaded', 'rejected', 2);
        $this->loads[$load]['older'] += $this->scaled(2);
        // Not those the office has on its sheets too, or whose number somebody else has.
        $sheets = (string) file_get_contents("$this->first/OF/contacts.csv");
        $isAlone = fn (int $row) => ! str_contains($sheets, $rows[$row][6]) && ! str_contains($sheets, strtr($rows[$row][6], [' ' => '']))
            && ($rows[$row + 1][0] ?? '') !== $rows[$row][0];
        foreach ($this->some($load, 3, $isAlone) as $row) {
            unset($rows[$row]);
        }
        $this->gone($load, 3, 'review');
        for ($i = 1, $n = $this->scaled(12); $i <= $n; $i++) {
            $rows[] = [
                sprintf('%05d', 60_000 + $i), mb_strtoupper("Newcomer $i, ").'Ada', 'P', "n$i@post.example", '', "$i New Quay",
                sprintf('OS7 %04d', $i), 'Inverlee', 'UK', '', (string) (90_000 + $i),
            ];
        }
        $this->added($load, $n);
        $this->put('BB/people.txt', ',', 'WINDOWS-1252', $header, $rows);
    }

    /** A row on top moves all others down. */
    private function contacts(): void
    {
        $load = 'Parties of the office sheets';
        [$header, $rows] = $this->read('OF/contacts.csv', ';', 'UTF-8');
        foreach ($this->some($load, 4) as $row) {
            $rows[$row][4] = sprintf('0151 496 9%03d', $row);
        }
        $this->changed($load, 4);
        foreach ($this->some($load, 3) as $row) {
            unset($rows[$row]);
        }
        $this->gone($load, 3, 'review');
        $merged = array_keys($this->key->loads[$load]['exceptions']['merged'] ?? []);
        unset($rows[$merged[$this->random->getInt(0, count($merged) - 1)]]);
        $this->gone($load, 1, 'withdrawn', 'merged');
        array_unshift($rows, [
            'C9001', 'Ada Ontop', 'private', 'ontop@post.example', '', '1 Top Lane', 'OS7 9001', 'Inverlee', 'GB', '0,00',
        ]);
        $this->added($load, 1);
        $this->put('OF/contacts.csv', ';', 'UTF-8', $header, $rows);
    }

    private function craft(): void
    {
        [$header, $rows] = $this->read('BB/craft.txt', ',', 'WINDOWS-1252');
        foreach ($this->some('Vessels', 10) as $row) {
            $rows[$row][7] = '4,44';
        }
        $this->changed('Vessels', 10);
        foreach ($this->some('Vessels', 2) as $row) {
            unset($rows[$row]);
        }
        $this->gone('Vessels', 2, 'review');
        for ($i = 1, $n = $this->scaled(5); $i <= $n; $i++) {
            $rows[] = [
                "CR-6000$i", "Newbuild $i", "nb $i", $this->owner(), 'YT', '01/05/2014', '30', '1,50', '', '', (string) (95_000 + $i),
            ];
        }
        $this->added('Vessels', $n);
        $this->put('BB/craft.txt', ',', 'WINDOWS-1252', $header, $rows);
    }

    private function agreements(): void
    {
        [$header, $rows] = $this->read('BB/agreement.txt', ',', 'WINDOWS-1252');
        // Cancelled since: out of scope, and what becomes of the record is for somebody to say.
        foreach ($this->some('Agreements', 3) as $row) {
            $rows[$row][8] = 'C';
        }
        $this->changed('Agreements', 3, 0);
        $this->move('Agreements', 'loaded', 'excluded', 3);
        $this->loads['Agreements']['older'] += $this->scaled(3);
        $repaired = array_keys($this->key->loads['Agreements']['exceptions']['rejected'] ?? [], 'not_a_number', true);
        [, $craft] = $this->read('BB/craft.txt', ',', 'WINDOWS-1252');
        $left = $this->key->loads['Vessels']['exceptions'];
        foreach ($repaired as $row) {
            $rows[$row][7] = '1,250.00';
            foreach ($craft as $vessel => $cells) {
                $isLoaded = array_filter($left, fn (array $of) => isset($of[$vessel])) === [];
                if ($isLoaded && ($cells[8] ?? '') === $rows[$row][0]) {
                    $this->links['Vessels.current_agreement']['made']++;
                    $this->links['Vessels.current_agreement']['waiting']--;
                }
            }
        }
        $this->loads['Agreements']['changed'] += count($repaired);
        $this->move('Agreements', 'rejected', 'loaded', count($repaired), false);
        $this->put('BB/agreement.txt', ',', 'WINDOWS-1252', $header, $rows);
    }

    /** The pontoon that hung on nothing hangs on one that exists, and what waited for it is set. */
    private function pontoons(): void
    {
        $db = new PDO("sqlite:$this->first/second/BB/berthbook.sqlite");
        $db->exec("UPDATE pontoon SET LENGTH_M = 71.5 WHERE PONTOON = 'P-005'");
        $db->exec("UPDATE pontoon SET PART_OF = 'P-013' WHERE PONTOON = 'P-020'");
        $this->loads['Pontoons']['changed'] += 2;
        $this->loads['Pontoons']['records_changed']++;
        $this->move('Pontoons', 'rejected', 'loaded', 1, false);
        $links = $this->links['Pontoons.part_of'];
        $this->links['Pontoons.part_of'] = ['made' => $links['made'] + $links['waiting'] + 1, 'waiting' => 0];
    }

    /** Three meters were misread; the workbook is otherwise the same, part by part. */
    private function readings(): void
    {
        $zip = new \ZipArchive;
        $zip->open("$this->first/second/OF/office.xlsx") === true ?: throw new \RuntimeException('The workbook cannot be opened.');
        $sheet = (string) $zip->getFromName('xl/worksheets/sheet1.xml');
        foreach ($this->some('Meter readings', 3) as $row) {
            // Three lines stand above the header.
            $cell = 'D'.($row + 4);
            $sheet = (string) preg_replace("~(<c r=\"$cell\"[^>]*><v>)[^<]*~", '${1}100001', $sheet, 1, $n);
            $n === 1 ?: throw new \RuntimeException("There is no cell $cell.");
        }
        $zip->addFromString('xl/worksheets/sheet1.xml', $sheet);
        // The same seed gives the same bytes.
        $zip->setMtimeName('xl/worksheets/sheet1.xml', 1_000_000_000);
        $zip->close();
        $this->changed('Meter readings', 3);
    }

    private function jobs(): void
    {
        $path = "$this->first/second/YL/jobs.jsonl";
        $lines = file($path, FILE_IGNORE_NEW_LINES) ?: [];
        foreach ($this->some('Workshop jobs', 4) as $row) {
            $job = json_decode($lines[$row - 1], true);
            $lines[$row - 1] = self::json(['hours' => 99.5] + $job, $job);
        }
        $this->changed('Workshop jobs', 4);
        $known = [];
        foreach (array_slice($lines, 0, 3) as $i => $line) {
            $job = json_decode($line, true);
            $known[mb_strtoupper($job['customer']['name'])] = true;
            $lines[] = self::json(['job_no' => sprintf('Z%05d', $i + 1)] + $job, $job);
        }
        $job = json_decode($lines[0], true);
        $lines[] = self::json(['job_no' => 'Z00009', 'customer' => ['name' => 'Ada Newcomer-Yard', 'phone' => null]] + $job, $job);
        $this->loads['Workshop jobs']['added'] += 4;
        $this->arrive('Workshop jobs', 4);
        // The feed counts each customer's jobs, which no field takes.
        $this->loads['Customers of the workshop']['changed'] += count($known);
        $this->loads['Customers of the workshop']['added']++;
        $this->arrive('Customers of the workshop', 1);
        file_put_contents($path, implode("\n", $lines)."\n");
    }

    /** Lines without a key: one on top, some at the foot, some crossed out in between. */
    private function notes(): void
    {
        $path = "$this->first/second/YL/notes.txt";
        $lines = explode("\r\n", rtrim((string) file_get_contents($path), "\r\n"));
        $counts = array_count_values($lines);
        $gone = $this->some('Notes', 6, fn (int $row) => $counts[$lines[$row - 1]] === 1);
        $job = substr($lines[0], 0, 7);
        foreach ($gone as $row) {
            unset($lines[$row - 1]);
        }
        $this->gone('Notes', 6, 'withdrawn');
        $this->loads['Notes']['removed'] += $this->scaled(6);
        array_unshift($lines, sprintf('%-7s%-10s%-4s%s', $job, '01.01.2018', 'HM', 'first of the new book'));
        for ($i = 1, $n = $this->scaled(4); $i <= $n; $i++) {
            $lines[] = sprintf('%-7s%-10s%-4s%s', $job, sprintf('%02d.02.2018', $i), 'SK', 'entered late');
        }
        $this->added('Notes', $n + 1);
        file_put_contents($path, implode("\r\n", $lines)."\r\n");
    }

    /** @return list<array{string, string, string, string}> year, number, customer and amount of the new ones */
    private function invoices(): array
    {
        [$header, $rows] = $this->read('AC/invoice.txt', '|', 'CP850');
        foreach ($this->some('Invoices', 10) as $row) {
            $rows[$row][5] = 'Berth dues, corrected';
        }
        $this->changed('Invoices', 10);
        $repaired = array_keys($this->key->loads['Invoices']['exceptions']['rejected'] ?? [], 'not_a_number', true);
        foreach ($repaired as $row) {
            $rows[$row][4] = '100,00';
        }
        $this->loads['Invoices']['changed'] += count($repaired);
        $this->move('Invoices', 'rejected', 'loaded', count($repaired), false);
        $new = [];
        for ($i = 1, $n = $this->scaled(25); $i <= $n; $i++) {
            $new[] = ['2018', sprintf('9%05d', $i), 'BB-'.$this->owner(), sprintf('%d,%02d', 100 + $i, $i)];
            $rows[] = ['2018', sprintf('9%05d', $i), end($new)[2], '150118', end($new)[3], 'Berth dues', '999'];
        }
        $this->added('Invoices', $n);
        $this->put('AC/invoice.txt', '|', 'CP850', $header, $rows);
        [$header, $lines] = $this->read('AC/line.txt', '|', 'CP850');
        foreach ($new as [$year, $number, , $amount]) {
            $lines[] = [$year, $number, '1', 'M8', '1', $amount, 'Berth dues'];
        }
        $this->added('Invoice lines', $n);
        // The package wrote its newest book first this time.
        $last = array_splice($lines, -min(500, intdiv(count($lines), 3)));
        $this->put('AC/line.txt', '|', 'CP850', $header, [...$last, ...$lines]);

        return $new;
    }

    /** @param  list<array{string, string, string, string}>  $invoices */
    private function payments(array $invoices): void
    {
        [$header, $rows] = $this->read('AC/payment.txt', '|', 'CP850');
        foreach ($this->some('Payments', 6) as $row) {
            $rows[$row][5] = '77.777,77';
        }
        $this->changed('Payments', 6);
        foreach ($this->some('Payments', 8) as $row) {
            unset($rows[$row]);
        }
        $this->gone('Payments', 8, 'gone');
        foreach (array_slice($invoices, 0, $this->scaled(15)) as $i => [$year, $number, $customer, $amount]) {
            $rows[] = [sprintf('Y%06d', $i + 1), $year, $number, $customer, '200118', $amount];
        }
        $this->added('Payments', min(count($invoices), $this->scaled(15)));
        $this->put('AC/payment.txt', '|', 'CP850', $header, $rows);
    }

    /**
     * Rows that were loaded, and nothing was done to yet.
     *
     * @param  (\Closure(int): bool)|null  $suits
     * @return list<int>
     */
    private function some(string $load, int $count, ?\Closure $suits = null): array
    {
        $of = $this->key->loads[$load];
        $left = array_merge([], ...array_map(array_keys(...), array_values($of['exceptions'])));
        $left = array_fill_keys($left, true);
        $rows = [];
        for ($tries = 0, $n = $this->scaled($count); count($rows) < $n; $tries++) {
            $tries < 100_000 ?: throw new \RuntimeException("$load has too few rows.");
            $row = $this->random->getInt(1, $of['rows']);
            if (! isset($left[$row]) && ! isset($this->touched[$load][$row])
                && ($suits === null || $suits($row))) {
                $rows[] = $row;
                $this->touched[$load][$row] = true;
            }
        }

        return $rows;
    }

    private function scaled(int $count): int
    {
        return max(1, (int) round($count * min(1, $this->scale)));
    }

    /** Number of somebody who is there. */
    private function owner(): string
    {
        do {
            $party = $this->random->getInt(4, count($this->parties));
        } while ($this->parties[$party] !== 'loaded' || isset($this->touched['Parties of Berthbook'][$party]));

        return sprintf('%05d', $party);
    }

    private function changed(string $load, int $rows, ?int $records = null): void
    {
        $this->loads[$load]['changed'] += $this->scaled($rows);
        $this->loads[$load]['records_changed'] += $records === null ? $this->scaled($rows) : $records;
    }

    private function added(string $load, int $rows): void
    {
        $this->loads[$load]['added'] += $rows;
        $this->arrive($load, $rows);
    }

    private function arrive(string $load, int $rows): void
    {
        $this->loads[$load]['rows'] += $rows;
        $this->loads[$load]['outcomes']['loaded'] += $rows;
    }

    private function gone(string $load, int $rows, string $as, string $was = 'loaded'): void
    {
        $n = $was === 'loaded' ? $this->scaled($rows) : $rows;
        $this->loads[$load]['gone'] += $n;
        $this->loads[$load]['rows'] -= $n;
        $this->move($load, $was, $as, $n, false);
    }

    private function move(string $load, string $from, string $to, int $rows, bool $isScaled = true): void
    {
        $n = $isScaled ? $this->scaled($rows) : $rows;
        $this->loads[$load]['outcomes'][$from] = ($this->loads[$load]['outcomes'][$from] ?? 0) - $n;
        $this->loads[$load]['outcomes'][$to] = ($this->loads[$load]['outcomes'][$to] ?? 0) + $n;
    }

    /**
     * @param  array<string, mixed>  $job
     * @param  array<string, mixed>  $like  whose order of names it keeps
     */
    private static function json(array $job, array $like): string
    {
        return json_encode(array_replace($like, $job), JSON_UNESCAPED_UNICODE | JSON_THROW_ON_ERROR);
    }

    /** @return array{list<string>, array<int, list<string>>} header, and rows by number */
    private function read(string $path, string $delimiter, string $encoding): array
    {
        $file = fopen('php://memory', 'w+b') ?: throw new \RuntimeException('There is no memory.');
        fwrite($file, (string) iconv($encoding, 'UTF-8', (string) file_get_contents("$this->first/$path")));
        rewind($file);
        $rows = [];
        while (($cells = fgetcsv($file, 0, $delimiter, '"', '')) !== false) {
            $rows[] = array_map(strval(...), $cells);
        }
        $header = array_shift($rows) ?? [];

        return [$header, $rows === [] ? [] : array_combine(range(1, count($rows)), $rows)];
    }

    /**
     * @param  list<string>  $header
     * @param  array<int, list<string>>  $rows
     */
    private function put(string $path, string $delimiter, string $encoding, array $header, array $rows): void
    {
        $file = new LegacyFile("$this->first/second/$path", $delimiter, $encoding, $header);
        foreach ($rows as $row) {
            $file->row($row);
        }
        $file->close();
    }
}
