<?php

// php bench/files.php [--rows=200000]: so many rejected rows are written for the client as .xlsx and as .csv, and come back with every
// tenth row changed. Prints rows per second, the ratio to a bare writer and a bare reader of the same cells (which read them from the
// database too, and do nothing about them), and the memory above that of 1,000 rows.

use App\Files\AnswerBook;
use App\Files\AnswerReader;
use App\Files\FileBook;
use App\Files\WriteFile;
use App\Models\Answer;
use App\Models\ClientFile;
use App\Models\Extract;
use App\Models\Load;
use App\Models\Round;
use App\Models\Take;
use App\Plans\Headless;
use App\Reading\TableOpener;
use App\Staging\StagedRows;
use Baggage\Core\Reading\DelimitedFormat;
use Baggage\Core\Reading\Layout;
use Baggage\Core\Reading\ReaderSettings;
use Baggage\Core\Reading\Workbook\WorkbookFormat;
use Baggage\Core\Writing\Workbook\BookXml;
use Baggage\Core\Writing\Workbook\SheetXml;

putenv('CACHE_STORE=file');
require __DIR__.'/begin.php';
// The bench edits whole files itself; what is measured is counted from where it began.
ini_set('memory_limit', '2G');
$rows = (int) (getopt('', ['rows:'])['rows'] ?? 200_000);
Illuminate\Support\Facades\Artisan::call('migrate:fresh', ['--force' => true]);
config(['queue.default' => 'null', 'baggage.apart.on' => false, 'baggage.vault' => "$folder/vault"]);
$target = new PDO('mysql:host=127.0.0.1;port='.getenv('DB_PORT'), (string) getenv('DB_USERNAME'), (string) getenv('DB_PASSWORD'));

/** A round in which so many rows fail: half for a code, half for a date. */
$make = function (int $rows) use ($app, $folder, $target): Round {
    $database = getenv('DB_DATABASE')."_files_$rows";
    $target->exec("CREATE OR REPLACE DATABASE $database CHARACTER SET utf8mb4");
    $target->exec("CREATE TABLE $database.party (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40) NOT NULL, kind VARCHAR(20) NOT NULL, "
        .'born DATE NOT NULL) ENGINE=InnoDB');
    $target->exec("GRANT ALL ON $database.* TO harbour@'127.0.0.1'");
    @mkdir("$folder/files_$rows");
    $file = fopen("$folder/files_$rows/party.csv", 'w');
    fwrite($file, "no,name,kind,born,street,town,postcode,note\n");
    for ($i = 1; $i <= $rows; $i++) {
        [$kind, $born] = $i % 2 === 0 ? ['P', '31/02/2003'] : ['X'.($i % 400), '01/02/2003'];
        $line = "%06d,Name %d,%s,%s,%d Quay Street,Inverlee,IV%d,\"as said, %d\"\n";
        fwrite($file, sprintf($line, $i, $i, $kind, $born, $i % 90, $i % 40, $i));
    }
    fclose($file);
    file_put_contents("$folder/files_$rows/plan.yaml", <<<YAML
        baggage: 1
        migration: files_$rows
        target:
          application: bench
          connections:
            - {name: bench, host: 127.0.0.1, port: "\${HARBOUR_OFFICE_PORT}", database: $database, username: harbour,
               password_env: HARBOUR_OFFICE_PASSWORD}
        sources: [{code: L, name: Legacy, extracts: [{name: party, file: party.csv}]}]
        code_crosswalks: [{name: kinds, entries: {P: person, O: organisation}}]
        loads:
          - {name: Parties, entity: party, from: L/party, key: [no],
             fields: {name: trim(name), kind: "code('kinds', kind)", born: "date(born, 'd/m/Y')"}}
        YAML);
    $headless = $app->make(Headless::class);
    $migration = $headless->import("$folder/files_$rows/plan.yaml");
    $headless->freeze($migration, "$folder/files_$rows/plan.yaml", fn (Extract $e, Take $t) => null);

    return $headless->run($migration, 'rehearsal-1', null);
};
/** @return array{float, float} seconds, and MB above what there was */
$measured = function (Closure $do): array {
    gc_collect_cycles();
    memory_reset_peak_usage();
    [$before, $began] = [memory_get_usage(), microtime(true)];
    $do();

    return [microtime(true) - $began, (memory_get_peak_usage() - $before) / 2 ** 20];
};
/**
 * Machines change their speed within seconds: both are asked in turns, and the best of each counts.
 *
 * @return array{float, float, float} seconds of ours, seconds of the bare one, and MB of ours
 */
$inTurns = function (Closure $ours, Closure $bare) use ($measured): array {
    $found = [];
    for ($n = 0; $n < 4; $n++) {
        $found[] = [...$measured($ours), $bare()];
    }

    return [min(array_column($found, 0)), min(array_column($found, 2)), max(array_column($found, 1))];
};
$settings = fn (string $format) => new ReaderSettings(
    $format === 'xlsx' ? new WorkbookFormat('Parties') : new DelimitedFormat(','), new Layout(header: false),
);
/** The same cells, read as they lie in the database and written, with nothing known of rejects: seconds. */
$bareOut = function (ClientFile $file, string $to): float {
    $take = (int) $file->round->roundLoads()->value('take_id');
    $began = microtime(true);
    $more = ['144', 'mapping', 'born', '31/02/2003', 'Not a date in the form d/m/Y', '', 'BCDFGH-3-144-9D1F'];
    $out = fopen($file->format === 'csv' ? $to : "$to.xml", 'w');
    $sheet = new SheetXml;
    fwrite($out, $file->format === 'csv' ? '' : $sheet->head([]));
    foreach (StagedRows::pages($take) as $rows) {
        foreach ($rows as $cells) {
            $cells = [...json_decode($cells, true), ...$more];
            $file->format === 'csv' ? fputcsv($out, $cells, escape: '') : fwrite($out, $sheet->row($cells));
        }
    }
    fwrite($out, $file->format === 'csv' ? '' : $sheet->foot(0));
    fclose($out);
    if ($file->format === 'xlsx') {
        $zip = new ZipArchive;
        $zip->open($to, ZipArchive::CREATE | ZipArchive::OVERWRITE);
        foreach (BookXml::parts(['Parties']) as $name => $text) {
            $zip->addFromString($name, $text);
        }
        $zip->addFile("$to.xml", 'xl/worksheets/sheet1.xml');
        $zip->setCompressionIndex($zip->numFiles - 1, ZipArchive::CM_DEFLATE, 1);
        $zip->close();
    }

    return microtime(true) - $began;
};
/** The same cells, read from the file and beside it as they lie in the database, with nothing done about them: seconds. */
$bareBack = function (Answer $answer, ReaderSettings $settings): float {
    $take = (int) $answer->round->roundLoads()->value('take_id');
    $began = microtime(true);
    $table = (new TableOpener)->open($settings, (string) $answer->path);
    $table->columns();
    $n = 0;
    foreach ($table->rows() as $row) {
        $n += count($row->cells);
    }
    foreach (StagedRows::pages($take) as $rows) {
        foreach ($rows as $cells) {
            $n += count(json_decode($cells, true));
        }
    }

    return microtime(true) - $began;
};
$found = [];
foreach ([1_000, $rows] as $of) {
    $round = $make($of);
    $load = (int) Load::query()->where('migration_id', $round->migration_id)->value('id');
    foreach (['csv', 'xlsx'] as $format) {
        $file = FileBook::begin($round, [$load], null, $format, 'Rejected rows');
        [$out, $bare, $outMemory] = $inTurns(
            fn () => WriteFile::write($file),
            fn () => $bareOut($file, "$folder/bare.$format"),
        );
        // Back: every tenth date is put right.
        $back = "$folder/back.$format";
        copy($file->path(), $back);
        if ($format === 'csv') {
            $n = 0;
            file_put_contents($back, preg_replace_callback('/31\/02\/2003(?="?,"?\d)/', function ($m) use (&$n) {
                return ++$n % 5 === 0 ? '28/02/2003' : $m[0];
            }, (string) file_get_contents($back)));
        } else {
            $zip = new ZipArchive;
            $zip->open($back);
            $n = 0;
            $xml = (string) $zip->getFromName('xl/worksheets/sheet1.xml');
            $date = '/(<c r="D\d+"[^>]*><is><t>)31\/02\/2003/';
            $zip->addFromString('xl/worksheets/sheet1.xml', preg_replace_callback($date, function ($m) use (&$n) {
                return $m[1].(++$n % 5 === 0 ? '28/02/2003' : '31/02/2003');
            }, $xml));
            $zip->close();
            unset($xml);
        }
        $answer = AnswerBook::begin($round, $back, "back.$format", 'Bench');
        [$in, $bareIn, $inMemory] = $inTurns(
            fn () => print(json_encode(array_intersect_key(
                AnswerReader::look(['answer' => $answer->id])['found'] ?? [], ['rows' => 0, 'change' => 0],
            ))."\n"),
            fn () => $bareBack($answer, $settings($format)),
        );
        $found[$format][$of] = [$out, $bare, $in, $bareIn, $outMemory, $inMemory];
    }
}
printf("%-6s %12s %8s %12s %8s %14s %14s\n", '', 'out, rows/s', 'ratio', 'in, rows/s', 'ratio', 'memory out', 'memory in');
foreach ($found as $format => $of) {
    [$few, [$out, $bare, $in, $bareIn, $outMemory, $inMemory]] = [$of[1_000], $of[$rows]];
    printf("%-6s %12s %8.2f %12s %8.2f %11.1f MB %11.1f MB\n", $format, number_format($rows / $out), $out / $bare,
        number_format($rows / $in), $in / $bareIn, $outMemory - $few[4], $inMemory - $few[5]);
}
