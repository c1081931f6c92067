<?php

// php bench/load.php [--scale=1] [--seed=7] [--workers=1]: 100,000 parents and 1,000,000 children (at scale 1) from text files to
// target tables with key crosswalk, code look-up, checks and ledger: Baggage's whole way, and the same work as hand-written SQL on
// the same server before and after. Prints seconds, the ratio, the peak memory of each process and the size of the ledger per row.
// With --random the children's keys come in no order, as the keys of most systems do.
// With --back-out everything is taken back afterwards, by the same workers, and that is held against the time of loading.

use App\Models\Extract;
use App\Models\Take;
use App\Plans\Headless;
use App\Reconciling\Report;
use Illuminate\Support\Facades\DB;

require __DIR__.'/begin.php';
require __DIR__.'/bills.php';

Illuminate\Support\Facades\Artisan::call('migrate:fresh', ['--force' => true]);
$headless = $app->make(Headless::class);

$before = $reference();
[$p1, $s1] = $processor();
$start = microtime(true);
$migration = $headless->import("$folder/plan.yaml");
$headless->freeze($migration, "$folder/plan.yaml", fn (Extract $e, Take $t) => null);
$frozen = microtime(true);
$round = $headless->run($migration, 'bench', null, workers: (int) ($options['workers'] ?? 1));
$end = microtime(true);
[$p2, $s2] = $processor();
$report = $app->make(Report::class)->of($round);
foreach ($report['loads'] as $load) {
    printf(
        "  %-12s %s of %s loaded, %.1f s\n",
        $load['load'],
        number_format($load['outcomes']['loaded']),
        number_format($load['feed_rows']),
        $load['seconds'],
    );
}
if (! $report['proofs_hold'] || $report['open_rows'] > 0) {
    fwrite(
        STDERR,
        'The loads are not what they should be: '
            .json_encode(array_map(fn ($l) => [$l['load'] => array_slice($l['causes'], 0, 3)], $report['loads']))
            .PHP_EOL.$report['error'].PHP_EOL,
    );
    exit(1);
}
printf(
    "Baggage            %7.1f s (freezing %.1f s, loading %.1f s)\n",
    $end - $start,
    $frozen - $start,
    $end - $frozen,
);
printf("processor time     %7.1f s here, %.1f s in the server\n", $p2 - $p1, $s2 - $s1);
$after = $reference();
[$sql, $sqlProcessor] = [($before[0] + $after[0]) / 2, ($before[1] + $after[1]) / 2];
printf(
    "ratio              %7.2f by the clock, %.2f by processor time\n",
    ($end - $start) / $sql,
    ($p2 - $p1 + $s2 - $s1) / $sqlProcessor,
);
printf("peak memory        %7.1f MB in the one process\n", memory_get_peak_usage(true) / 1e6);
DB::statement('ANALYZE TABLE outcomes, row_causes');
$bytes = (int) DB::table('information_schema.tables')
    ->where('table_schema', DB::getDatabaseName())
    ->whereIn('table_name', ['outcomes', 'row_causes'])
    ->sum(DB::raw('data_length + index_length'));
printf("ledger             %7.0f bytes a row, data and indexes\n", $bytes / ($parents + $children));
if (isset($options['back-out'])) {
    $began = microtime(true);
    $pass = $headless->backOut($round, 1, (int) ($options['workers'] ?? 1));
    $took = microtime(true) - $began;
    $rest = (int) DB::table("$harbour.bill")->count() + (int) DB::table("$harbour.customer")->count();
    printf("taken back         %7.1f s: %.2f of loading; records left %d\n", $took, $took / ($end - $frozen), $rest);
    $pass->error === null ?: fwrite(STDERR, "$pass->error\n");
    exit($rest === 0 && $pass->error === null ? 0 : 1);
}
