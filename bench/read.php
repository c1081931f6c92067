<?php

// php bench/read.php [--scale=1]: freezing 1,000,000 rows of delimited text (staged, hashed, profiled) against LOAD DATA LOCAL of the
// same file into one table, studying it, and freezing a 200,000 x 15 .xlsx against a bare XMLReader walk of the same sheet, each three
// times in turn, when the server has nothing left to do from before; the median counts. Prints seconds, rows and cells a second, the
// ratios and the peak memory of the one process.

use App\Freezing\Freezer;
use App\Models\Migration;
use App\Profiling\Study;
use App\Reading\TableOpener;
use Baggage\Core\Feeds\Formats;
use Illuminate\Support\Facades\DB;

require __DIR__.'/begin.php';
$scale = (float) (getopt('', ['scale:'])['scale'] ?? 1);
$rows = max(1000, (int) (1_000_000 * $scale));
$sheetRows = max(1000, (int) (200_000 * $scale));

$file = fopen("$folder/read.csv", 'wb');
fwrite($file, "NO,NAME,KIND,BORN,AMOUNT,TOWN,NOTE,CUST\n");
for ($i = 1; $i <= $rows; $i++) {
    fwrite(
        $file,
        sprintf(
            "B%08d,Customer number %d,%s,%02d/%02d/%d,\"%s\",Port %d,%s,K%07d\n",
            $i,
            $i,
            ['P', 'O', 'Q'][$i % 3],
            ($i % 28) + 1,
            ($i % 12) + 1,
            1925 + ($i % 90),
            number_format(($i % 900000) / 100, 2),
            $i % 97,
            $i % 11 === 0 ? 'seen at the quay' : '',
            ($i * 7919) % 100_000,
        ),
    );
}
fclose($file);

// A workbook as office programs write them, made in a process of its own: it is built in memory.
$write = function () use ($folder, $sheetRows): void {
    ini_set('memory_limit', '3G');
    $book = new App\Support\WorkbookFile("$folder/read.xlsx");
    $book->sheet(
        'S',
        (function () use ($sheetRows) {
            yield array_map(fn ($i) => "Column $i", range(1, 15));
            for ($i = 1; $i <= $sheetRows; $i++) {
                yield [
                    "N$i",
                    'Name '.$i % 5000,
                    ['date', 36_526 + ($i % 7000)],
                    $i,
                    ['money', ($i % 9000) / 100],
                    'Town '.$i % 97,
                    ['percent', ($i % 100) / 100],
                    $i * 3,
                    'x',
                    null,
                    $i % 2 === 0 ? 'yes' : 'no',
                    1.5 * $i,
                    ['formula', $i],
                    'note '.$i % 700,
                    $i % 13,
                ];
            }
        })(),
    );
    $book->save();
};
if (($child = pcntl_fork()) === 0) {
    $write();
    posix_kill((int) getmypid(), SIGKILL);
}
pcntl_waitpid($child, $status);

Illuminate\Support\Facades\Artisan::call('migrate:fresh', ['--force' => true]);
$pdo = DB::connection()->getPdo();
$pdo->exec(
    'CREATE OR REPLACE TABLE by_hand (no VARCHAR(20), name VARCHAR(100), kind VARCHAR(10), born VARCHAR(20), amount '
        .'VARCHAR(20), town VARCHAR(40), note VARCHAR(100), cust VARCHAR(20)) ENGINE=InnoDB CHARACTER SET utf8mb4',
);
$byHand = function () use ($pdo, $folder): float {
    $pdo->exec('TRUNCATE by_hand');
    $start = microtime(true);
    $pdo->exec(
        'LOAD DATA LOCAL INFILE '.$pdo->quote("$folder/read.csv")
            ." INTO TABLE by_hand CHARACTER SET utf8mb4 FIELDS TERMINATED BY ',' OPTIONALLY ENCLOSED BY '\"' IGNORE 1 LINES",
    );

    return microtime(true) - $start;
};
$source = Migration::query()
    ->create(['name' => 'Bench', 'target_name' => 'x', 'installation' => 'bench'])
    ->sources()
    ->create(['code' => 'L', 'name' => 'L']);
$freeze = function (string $name, array $reader, string $path) use ($source, $app): array {
    $extract = $source->extracts()->create(['name' => $name, 'reader' => $reader]);
    $take = $extract
        ->takes()
        ->create([
            'number' => 1,
            'state' => 'waiting',
            'file' => $path,
            'file_name' => basename($path),
            'bytes' => (int) filesize($path),
        ]);
    memory_reset_peak_usage();
    $start = microtime(true);
    $app->make(Freezer::class)->freeze($take);
    if ($take->refresh()->state->value !== 'frozen') {
        fwrite(STDERR, "$name: $take->error\n");
        exit(1);
    }

    return [microtime(true) - $start, (int) $take->rows, memory_get_peak_usage(true) / 1e6];
};
$report = function (
    string $what,
    float $seconds,
    int $rows,
    int $columns,
    float $peak,
    float $reference,
    string $than,
): void {
    printf(
        "%-28s %6.1f s, %s rows/s, %s cells/s, ratio %.2f to %s, peak %.0f MB\n",
        $what,
        $seconds,
        number_format($rows / $seconds),
        number_format(($rows * $columns) / $seconds),
        $seconds / $reference,
        $than,
        $peak,
    );
};
/** Waits until the server has written and cleaned up what the work before left it to. */
$atRest = function () use ($pdo): void {
    $pid = (int) trim((string) file_get_contents((string) $pdo->query('SELECT @@pid_file')->fetchColumn()));
    $used = fn (): int => array_sum(array_slice(explode(' ', (string) file_get_contents("/proc/$pid/stat")), 13, 2));
    for ($i = 0, $before = $used(); $i < 60; $i++) {
        sleep(1);
        $now = $used();
        if ($now - $before < 5) {
            return;
        }
        $before = $now;
    }
};
/** The reference and ours, one after the other three times: what the machine does beside moves the median little. */
$three = function (
    string $what,
    string $than,
    Closure $reference,
    Closure $ours,
    int $columns,
    ?Closure $after = null,
) use ($report, $atRest): float {
    $rounds = [];
    foreach ([1, 2, 3] as $round) {
        $atRest();
        $took = $reference();
        $atRest();
        [$seconds, $n, $peak] = $ours($round);
        printf("  %-26s %6.1f s, %s %.1f s\n", "$what, round $round", $seconds, $than, $took);
        $rounds[] = [$seconds / $took, $seconds, $took, $n, $peak];
        if ($round === 1 && $after !== null) {
            $after($seconds);
        }
    }
    sort($rounds);
    [, $seconds, $took, $n, $peak] = $rounds[1];
    $report($what, $seconds, $n, $columns, $peak, $took, $than);

    return $took;
};
$study = function (float $frozen) use ($app, $source, $report, $rows): void {
    memory_reset_peak_usage();
    $start = microtime(true);
    $app->make(Study::class)->of($source->migration()->firstOrFail());
    $report('studied', microtime(true) - $start, $rows, 8, memory_get_peak_usage(true) / 1e6, $frozen, 'freezing it');
};
$freezeText = fn (int $round) => $freeze("text$round", [], "$folder/read.csv");
$sql = $three('delimited text, frozen', 'LOAD DATA LOCAL', $byHand, $freezeText, 8, $study);

memory_reset_peak_usage();
$atRest();
$start = microtime(true);
foreach ((new TableOpener)->open(Formats::settings([]), "$folder/read.csv")->rows() as $row) {
}
$report(
    'delimited text, only read',
    microtime(true) - $start,
    $rows,
    8,
    memory_get_peak_usage(true) / 1e6,
    $sql,
    'LOAD DATA LOCAL',
);

$walk = function () use ($folder): float {
    $start = microtime(true);
    $xml = new XMLReader;
    $xml->open("zip://$folder/read.xlsx#xl/worksheets/sheet1.xml", null, LIBXML_PARSEHUGE);
    while ($xml->read()) {
    }

    return microtime(true) - $start;
};
$freezeSheet = fn (int $round) => $freeze("sheet$round", ['kind' => 'workbook'], "$folder/read.xlsx");
$walked = $three('.xlsx, frozen', 'the walk', $walk, $freezeSheet, 15);
memory_reset_peak_usage();
$atRest();
$start = microtime(true);
foreach ((new TableOpener)->open(Formats::settings(['kind' => 'workbook']), "$folder/read.xlsx")->rows() as $row) {
}
$report('.xlsx, only read', microtime(true) - $start, $sheetRows, 15, memory_get_peak_usage(true) / 1e6, $walked, 'the walk');
