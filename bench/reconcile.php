<?php

// php bench/reconcile.php [--scale=1]: 100,000 parents and 1,000,000 children (at scale 1) are loaded; then five control totals of the
// children with their groups are counted, one of them by parent, and all records compared, eight fields of each child. Prints the
// processor time against hand-written SQL that gives the same answers from the same rows on one server, and the memory above what
// 1,000 rows take.

use App\Models\Extract;
use App\Models\Take;
use App\Plans\Headless;
use App\Reckoning\Reckoned;
use App\Reckoning\Reckonings;
use App\Reckoning\TotalLine;
use Illuminate\Support\Facades\Artisan;

if (in_array('--small', $argv, true)) {
    array_push($argv, '--scale=0.001');
}
require __DIR__.'/begin.php';
require __DIR__.'/bills.php';

$pdo->exec("ALTER TABLE $harbour.bill ADD net DECIMAL(12,4) NOT NULL, ADD month CHAR(7) NOT NULL, ADD remark VARCHAR(40) NULL");
$plan = (string) file_get_contents("$folder/plan.yaml");
$plan = str_replace("status: code('states', status)\n", "status: code('states', status)
      net: round(decimal(amount, '.') * 0.8, 4)
      month: left(date(bill_dt, 'd/m/Y'), 7)
      remark: join(' ', 'Bill', trim(bill_no))\n", "$plan\n");
$plan .= <<<'YAML'
proofs:
  - {name: By year, load: Bills, field: total, legacy: "decimal(amount, '.')", by: {field: issued, of: year, legacy: "right(bill_dt, 4)"}}
  - {name: By customer, load: Bills, field: net, legacy: "decimal(amount, '.') * 0.8", by: {field: customer, legacy: parent(cust_no)}}
  - {name: Numbers, load: Bills, kind: hash, field: number, legacy: trim(bill_no), by: {field: status, legacy: "code('states', status)"}}
  - {name: Newest, load: Bills, kind: largest, field: issued, legacy: "date(bill_dt, 'd/m/Y')",
     by: {field: status, legacy: "code('states', status)"}}
  - {name: Amounts, load: Bills, kind: distinct, field: total, legacy: "decimal(amount, '.')",
     by: {field: month, legacy: "left(date(bill_dt, 'd/m/Y'), 7)"}}

YAML;
file_put_contents("$folder/plan.yaml", $plan);

Artisan::call('migrate:fresh', ['--force' => true]);
$loading = microtime(true);
$headless = $app->make(Headless::class);
$migration = $headless->import("$folder/plan.yaml");
$headless->freeze($migration, "$folder/plan.yaml", fn (Extract $e, Take $t) => null);
$round = $headless->run($migration, 'bench', null);

/** The same by hand: the rows lie in a table with columns of their own, and a crosswalk beside them. */
$byHand = function () use ($pdo, $other, $harbour, $processor): array {
    $pdo->exec("USE $other");
    [$p0, $s0] = $processor();
    $began = microtime(true);
    $amount = "CAST(REPLACE(s.amount, ',', '') AS DECIMAL(10,2))";
    $day = "STR_TO_DATE(s.bill_dt, '%d/%m/%Y')";
    $both = "FROM st_bill s JOIN xw_bill x ON x.bill_no = s.bill_no JOIN $harbour.bill b ON b.number = s.bill_no";
    $answers = [];
    foreach ([
        ['RIGHT(s.bill_dt, 4)', 'YEAR(b.issued)', "SUM($amount)", 'SUM(b.total)', "$amount", 'b.total'],
        ['s.cust_no', 'b.customer', "SUM($amount * 0.8)", 'SUM(b.net)', "$amount * 0.8", 'b.net'],
        ['s.status', 'b.status', 'SUM(CRC32(s.bill_no))', 'SUM(CRC32(b.number))', 's.bill_no', 'b.number'],
        ['s.status', 'b.status', "MAX($day)", 'MAX(b.issued)', $day, 'b.issued'],
        ["DATE_FORMAT($day, '%Y-%m')", 'b.month', "COUNT(DISTINCT $amount)", 'COUNT(DISTINCT b.total)', $amount, 'b.total'],
    ] as [$group, $byRecord, $legacy, $target, $value, $is]) {
        $answers[] = count($pdo->query("SELECT $group AS g, $legacy AS v FROM st_bill s GROUP BY g")->fetchAll());
        $answers[] = count($pdo->query("SELECT $byRecord AS g, $target AS v FROM $harbour.bill b GROUP BY g")->fetchAll());
        // The rows that make a difference.
        $answers[] = count($pdo->query("SELECT s.bill_no, $value, $is $both WHERE NOT ($value <=> $is)")->fetchAll());
    }
    $fields = [
        'number' => 'TRIM(s.bill_no)', 'issued' => $day, 'total' => $amount, 'status' => 'c.new', 'net' => "ROUND($amount * 0.8, 4)",
        'month' => "DATE_FORMAT($day, '%Y-%m')", 'remark' => "CONCAT('Bill ', TRIM(s.bill_no))",
    ];
    $differs = implode(', ', array_map(fn ($f, $e) => "SUM(NOT (b.$f <=> $e))", array_keys($fields), $fields));
    $pdo->query("SELECT $differs, SUM(b.id IS NULL), SUM(NOT (k.name <=> kk.cust_name)) FROM st_bill s
        JOIN xw_bill x ON x.bill_no = s.bill_no JOIN state c ON c.old = s.status LEFT JOIN $harbour.bill b ON b.number = s.bill_no
        LEFT JOIN $harbour.customer k ON k.id = b.customer LEFT JOIN st_customer kk ON kk.cust_no = s.cust_no")->fetchAll();
    $pdo->query("SELECT SUM(NOT (k.name <=> s.cust_name)), SUM(NOT (k.kind <=> c.new)), SUM(NOT (k.town <=> s.town)) FROM st_customer s
        JOIN code c ON c.kind = s.kind JOIN $harbour.customer k ON k.name = s.cust_name AND k.id > 0
        WHERE s.row_no < 0")->fetchAll();
    [$p1, $s1] = $processor();

    return [microtime(true) - $began, $p1 - $p0 + $s1 - $s0];
};
printf("loaded             %7.1f s\n", microtime(true) - $loading);
$bySql();
$before = $byHand();
printf("by hand            %7.1f s\n", $before[0]);
[$p0, $s0] = $processor();
memory_reset_peak_usage();
$began = microtime(true);
[$totals, $comparison] = Reckonings::now($round, true, []);
$clock = microtime(true) - $began;
[$p1, $s1] = $processor();
$peak = memory_get_peak_usage() / 1e6;
$after = $byHand();
$own = $p1 - $p0 + $s1 - $s0;
$sql = ($before[1] + $after[1]) / 2;
foreach (TotalLine::of($totals) as $line) {
    printf("  %-12s %20s %20s %s\n", $line->total->name, $line->legacy(), $line->target(), $line->holds() ? 'holds' : 'DOES NOT HOLD');
    $line->holds() ?: exit(1);
}
Reckoned::isEqual($comparison) ?: exit(1);
printf("records compared   %s\n", number_format($comparison->figures['looked']));
printf("hand-written SQL   %7.1f s, %.1f s of processor time\n", ($before[0] + $after[0]) / 2, $sql);
printf("Baggage            %7.1f s, %.1f s of processor time (%.1f s here, %.1f s in the server)\n", $clock, $own, $p1 - $p0, $s1 - $s0);
printf("ratio              %7.2f by the clock, %.2f by processor time\n", $clock / (($before[0] + $after[0]) / 2), $own / $sql);
printf("peak memory        %7.1f MB\n", $peak);
