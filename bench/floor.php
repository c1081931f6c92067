<?php

// php bench/floor.php [--scale=1] [--seed=7]: what the work of bench/load.php costs at the least in PHP, in one process, with nothing
// asked and nothing proved: rows read and staged, mapped by code written for these two tables, parents looked up in memory, batches
// written with INSERT … RETURNING, and their outcomes loaded into a table like the ledger's with its indexes. No profile, no claims,
// no matching, no refusals, no resuming. Prints where the time goes and the ratio to hand-written SQL.

require __DIR__.'/begin.php';
require __DIR__.'/bills.php';
Illuminate\Support\Facades\Artisan::call('migrate:fresh', ['--force' => true]);
$own = getenv('DB_DATABASE');
$db = new PDO(
    'mysql:host=127.0.0.1;port='.getenv('DB_PORT').";dbname=$own;charset=utf8mb4",
    getenv('DB_USERNAME') ?: '',
    getenv('DB_PASSWORD') ?: '',
    [PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION, PDO::MYSQL_ATTR_LOCAL_INFILE => true],
);
$spent = [];
$from = [0.0, 0.0];
$step = function (?string $what) use (&$spent, &$from, $processor): void {
    $now = $processor();
    if ($what !== null) {
        $spent[$what] = ($spent[$what] ?? 0) + $now[0] - $from[0] + $now[1] - $from[1];
    }
    $from = $now;
};
$load = function (string $into, string $lines) use ($db): void {
    $file = tempnam(is_dir('/dev/shm') ? '/dev/shm' : sys_get_temp_dir(), 'floor');
    file_put_contents((string) $file, $lines);
    $db->exec('LOAD DATA LOCAL INFILE '.$db->quote((string) $file)." INTO TABLE $into");
    unlink((string) $file);
};
$rows = function (string $table, int $take) use ($db, $load, $folder, $step): Generator {
    $file = fopen("$folder/$table.csv", 'rb') ?: exit(1);
    fgetcsv($file, escape: '');
    for ($n = 0, $more = true; $more;) {
        $lines = '';
        for ($i = 0; $i < 5000 && ($more = ($cells = fgetcsv($file, escape: '')) !== false); $i++) {
            $n++;
            $json = json_encode($cells, JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES);
            $lines .= "$take\t$n\t$n\t".hash('xxh3', $json)."\t".str_replace('\\', '\\\\', $json)."\n";
        }
        $step('reading');
        $load('staged_rows (take_id, row_no, line, @h, cells) SET hash = UNHEX(@h)', $lines);
        $step('staging');
    }
    for ($after = 0; ; $after = $number) {
        $found = $db->query("SELECT row_no, cells FROM staged_rows WHERE take_id = $take AND row_no > $after ORDER BY row_no LIMIT 2500");
        $batch = [];
        foreach ($found->fetchAll(PDO::FETCH_NUM) as [$number, $cells]) {
            $batch[(int) $number] = json_decode($cells, true);
        }
        $step('reading back');
        if ($batch === []) {
            return;
        }
        yield $batch;
    }
};
$write = function (string $into, array $mapped, int $load_id) use ($db, $load, $harbour, $step): array {
    $values = [];
    foreach ($mapped as [, $fields]) {
        $values[] = '('.implode(',', array_map($db->quote(...), $fields)).')';
    }
    $sql = "INSERT INTO $harbour.$into VALUES ".implode(',', $values).' RETURNING id';
    $step('building statements');
    $db->beginTransaction();
    $ids = $db->query($sql)->fetchAll(PDO::FETCH_COLUMN);
    $db->commit();
    $step('INSERT … RETURNING');
    $lines = '';
    $at = 0;
    foreach ($mapped as $row => [$key, $fields]) {
        $lines .= "$row\t$key\t1\tloaded\t{$ids[$at++]}\t".hash('xxh128', implode("\x1F", $fields))."\n";
    }
    $step('building lines');
    $load(
        "outcomes (item, legacy_key, stands, outcome, target_key, @h) SET sent_hash = UNHEX(@h), lane_id = 1, load_id = $load_id, "
            ."space_id = $load_id, pass_id = 1",
        $lines,
    );
    $step('ledger');

    return $ids;
};
$before = $reference();
[$p1, $s1] = $processor();
$start = microtime(true);
$step(null);
$crosswalk = [];
foreach ($rows('customer', 1) as $batch) {
    $mapped = [];
    foreach ($batch as $row => [$key, $name, $kind, $town]) {
        $kind = ['P' => 'person', 'O' => 'organisation', 'Q' => 'office'][trim($kind)];
        $mapped[$row] = [trim($key), [trim($name), $kind, trim($town)]];
    }
    $step('mapping');
    foreach ($write('customer (name, kind, town)', $mapped, 1) as $i => $id) {
        $crosswalk[current($mapped)[0]] = $id;
        next($mapped);
    }
}
foreach ($rows('bill', 2) as $batch) {
    $mapped = [];
    foreach ($batch as $row => [$key, $customer, $date, $amount, $status]) {
        $date = DateTimeImmutable::createFromFormat('!d/m/Y', trim($date));
        $mapped[$row] = [trim($key), [
            trim($key),
            $crosswalk[trim($customer)],
            $date->format('Y-m-d'),
            bcadd(str_replace(',', '', trim($amount)), '0', 2),
            ['A' => 'open', 'C' => 'closed', 'E' => 'ended'][trim($status)],
        ]];
    }
    $step('mapping');
    $write('bill (number, customer, issued, total, status)', $mapped, 2);
}
$end = microtime(true);
[$p2, $s2] = $processor();
$after = $reference();
printf("in PHP, no more    %7.1f s, %.1f s of processor time\n", $end - $start, $p2 - $p1 + $s2 - $s1);
foreach ($spent as $what => $seconds) {
    printf("  %-20s %5.1f µs a row\n", $what, $seconds * 1e6 / ($parents + $children));
}
printf("  %-20s %5.1f µs a row\n", 'hand-written SQL', ($before[1] + $after[1]) / 2 * 1e6 / ($parents + $children));
printf(
    "ratio              %7.2f by the clock, %.2f by processor time\n",
    ($end - $start) * 2 / ($before[0] + $after[0]),
    ($p2 - $p1 + $s2 - $s1) * 2 / ($before[1] + $after[1]),
);
