<?php

// php bench/delta.php [--scale=1]: 100,000 parents and 1,000,000 children (at scale 1) are loaded; then one in a hundred children says
// something else, once in place and once with a row on top of the file. Prints the seconds of freezing, of the delta against the first
// load, and its processor time against hand-written SQL that compares the two deliveries, applies the same and writes a table of the
// new row numbers; and what a delta costs that has nothing to do.

use App\Deltas\Delta;
use App\Models\Extract;
use App\Models\Take;
use App\Plans\Headless;
use App\Reconciling\Report;
use Illuminate\Support\Facades\DB;

require __DIR__.'/begin.php';
require __DIR__.'/bills.php';

Illuminate\Support\Facades\Artisan::call('migrate:fresh', ['--force' => true]);
$headless = $app->make(Headless::class);
$reference();
$migration = $headless->import("$folder/plan.yaml");
$freeze = function () use ($headless, $migration, $folder): float {
    $began = microtime(true);
    $headless->freeze($migration, "$folder/plan.yaml", fn (Extract $e, Take $t) => null);

    return microtime(true) - $began;
};
$frozen = $freeze();
$began = microtime(true);
$round = $headless->run($migration, 'bench', null);
$first = microtime(true) - $began;
printf("first delivery     %7.1f s frozen, %.1f s loaded\n", $frozen, $first);

/** The same by hand: both deliveries lie in the database already. */
$bySql = function () use ($pdo, $other, $folder, $processor): array {
    $pdo->exec("USE $other");
    $pdo->exec('CREATE OR REPLACE TABLE st_next LIKE st_bill');
    $pdo->exec('LOAD DATA LOCAL INFILE '.$pdo->quote("$folder/bill.csv")." INTO TABLE st_next FIELDS TERMINATED BY ','
        OPTIONALLY ENCLOSED BY '\"' IGNORE 1 LINES (bill_no, cust_no, bill_dt, amount, status)");
    [$p0, $s0] = $processor();
    $began = microtime(true);
    $values = "STR_TO_DATE(n.bill_dt, '%d/%m/%Y'), CAST(REPLACE(n.amount, ',', '') AS DECIMAL(10,2)), c.new";
    $pdo->exec("UPDATE st_next n JOIN st_bill o ON o.bill_no = n.bill_no JOIN xw_bill x ON x.bill_no = n.bill_no
        JOIN xw_customer k ON k.cust_no = n.cust_no JOIN state c ON c.old = n.status JOIN bill b ON b.id = x.new_id
        SET b.customer = k.new_id, b.issued = STR_TO_DATE(n.bill_dt, '%d/%m/%Y'),
        b.total = CAST(REPLACE(n.amount, ',', '') AS DECIMAL(10,2)), b.status = c.new
        WHERE NOT (n.cust_no <=> o.cust_no AND n.bill_dt <=> o.bill_dt AND n.amount <=> o.amount AND n.status <=> o.status)");
    $pdo->exec("INSERT INTO bill (number, customer, issued, total, status) SELECT n.bill_no, k.new_id, $values FROM st_next n
        JOIN xw_customer k ON k.cust_no = n.cust_no JOIN state c ON c.old = n.status
        LEFT JOIN st_bill o ON o.bill_no = n.bill_no WHERE o.bill_no IS NULL");

    $pdo->exec('CREATE OR REPLACE TABLE xw_next LIKE xw_bill');
    $pdo->exec('INSERT INTO xw_next SELECT n.bill_no, b.id, n.row_no FROM st_next n JOIN bill b ON b.number = n.bill_no
        ORDER BY n.bill_no');
    $clock = microtime(true) - $began;
    [$p1, $s1] = $processor();
    $pdo->exec('DROP TABLE st_bill, xw_bill');
    $pdo->exec('RENAME TABLE st_next TO st_bill, xw_next TO xw_bill');

    return [$clock, $p1 - $p0 + $s1 - $s0];
};

/** One in a hundred is changed in a way no other delivery had. */
$change = function (int $nth, ?string $top) use ($folder): int {
    $from = fopen("$folder/bill.csv", 'rb');
    $to = fopen("$folder/bill.new", 'wb');
    fwrite($to, (string) fgets($from));
    $top === null ?: fwrite($to, $top);
    for ($i = $n = 0; ($line = fgets($from)) !== false; $i++) {
        if ($i % 100 === $nth) {
            $line = preg_replace('/"[^"]*"/', '"'.number_format(9_000 + $i % 900 + $nth / 100, 2).'"', $line);
            $n++;
        }
        fwrite($to, (string) $line);
    }
    fclose($to);
    rename("$folder/bill.new", "$folder/bill.csv");

    return $n;
};
$failed = false;
foreach (['in place' => null, 'a row on top' => "B99999999,K0000001,01/02/2003,\"1.00\",A\n", 'nothing' => ''] as $how => $top) {
    $n = $how === 'nothing' ? 0 : $change($how === 'in place' ? 17 : 43, $top);
    $frozen = $n === 0 ? 0.0 : $freeze();
    [$p0, $s0] = $processor();
    $began = microtime(true);
    $headless->run($migration, 'bench', null, delta: new Delta);
    $clock = microtime(true) - $began;
    [$p1, $s1] = $processor();
    [$sql, $sqlProcessor] = $n === 0 ? [0, 0] : $bySql();
    $report = $app->make(Report::class)->of($round->refresh());
    $changed = (int) DB::table('values_before')->where('pass_id', $round->latestPass()?->id)->count();
    printf("%-18s %7.1f s frozen; delta %.1f s, %.3f of the first load; %s records changed\n", $how, $frozen, $clock, $clock / $first,
        number_format($changed));
    $n === 0 ?: printf("%-18s %7.1f s of processor time, by hand %.1f s (%.1f s by the clock): ratio %.2f\n", '', $p1 - $p0 + $s1 - $s0,
        $sqlProcessor, $sql, ($p1 - $p0 + $s1 - $s0) / $sqlProcessor);
    $failed = $failed || $changed !== $n || ! $report['proofs_hold'] || $report['open_rows'] > 0;
    if ($n > 0) {
        $differ = "SELECT COUNT(*) FROM $harbour.bill a LEFT JOIN $other.bill b ON b.number = a.number AND b.issued = a.issued
            AND b.total = a.total AND b.status = a.status WHERE b.number IS NULL";
        $failed = $failed || (int) $pdo->query($differ)->fetchColumn() > 0;
    }
}
printf("peak memory        %7.1f MB in the one process\n", memory_get_peak_usage(true) / 1e6);
$failed ? fwrite(STDERR, "A delta did not do what it should have.\n") : null;
exit($failed ? 1 : 0);
