<?php

// php bench/wide.php [--columns=1000] [--rows=5000]: freezing and studying a table of very many columns. Prints seconds and the peak
// memory of the process that reads and of each it starts, as the kernel counts it (getrusage, ru_maxrss).

use App\Freezing\Freezer;
use App\Models\Migration;
use App\Profiling\Study;

require __DIR__.'/begin.php';
$options = getopt('', ['columns:', 'rows:']);
[$columns, $rows] = [(int) ($options['columns'] ?? 1000), (int) ($options['rows'] ?? 5000)];
$file = fopen("$folder/wide.csv", 'wb');
fwrite($file, implode(',', array_map(fn (int $c) => "COLUMN_$c", range(1, $columns)))."\n");
for ($i = 1; $i <= $rows; $i++) {
    $cells = [];
    for ($c = 1; $c <= $columns; $c++) {
        $cells[] = match ($c % 5) {
            0 => "N$i-$c",
            1 => $i * $c % 1000,
            2 => sprintf('%02d/%02d/%d', $i % 28 + 1, $c % 12 + 1, 1990 + $i % 30),
            3 => ['yes', 'no', ''][$i % 3],
            default => number_format($i * $c % 9000 / 7, 2, '.', ''),
        };
    }
    fwrite($file, implode(',', $cells)."\n");
}
fclose($file);
Illuminate\Support\Facades\Artisan::call('migrate:fresh', ['--force' => true]);
$migration = Migration::query()->create(['name' => 'Wide', 'target_name' => 'x', 'installation' => 'bench']);
$extract = $migration->sources()->create(['code' => 'L', 'name' => 'L'])->extracts()->create(['name' => 'wide', 'reader' => []]);
$take = $extract->newTake(['file' => "$folder/wide.csv", 'file_name' => 'wide.csv', 'bytes' => (int) filesize("$folder/wide.csv")]);
$peak = fn (int $of): float => (getrusage($of)['ru_maxrss'] ?? 0) / 1024;
$before = $peak(0);
$start = microtime(true);
$app->make(Freezer::class)->freeze($take);
$frozen = microtime(true);
if ($take->refresh()->state->value !== 'frozen') {
    fwrite(STDERR, "$take->error\n");
    exit(1);
}
printf("%s rows of %s columns frozen in %.1f s\n", number_format((int) $take->rows), number_format($columns), $frozen - $start);
printf("peak memory  %5.0f MB here (%.0f before), %.0f MB in the largest process it started\n", $peak(0), $before, $peak(1));
$app->make(Study::class)->of($migration);
printf("studied in %.1f s, peak memory %.0f MB\n", microtime(true) - $frozen, $peak(0));
