<?php

// php bench/match.php [--rows=100000]: a load of parties without a match rule and the same with one over four fields, into two empty
// tables. Prints seconds by the clock and of processor time, the server's with it, and the ratios. Matches are few, as they mostly are.

use App\Models\Extract;
use App\Models\Take;
use App\Plans\Headless;
use App\Reconciling\Report;
use Illuminate\Support\Facades\DB;
use Symfony\Component\Yaml\Yaml;

require __DIR__.'/begin.php';
$rows = (int) (getopt('', ['rows:'])['rows'] ?? 100_000);
$file = fopen("$folder/party.csv", 'wb');
fwrite($file, "NO,NAME,MAIL,TOWN,PHONE\n");
for ($i = 1; $i <= $rows; $i++) {
    $of = $i % 100 === 0 ? $i - 1 : $i;
    fwrite($file, sprintf("K%07d,Party number %d,p%d@office.example,Port %d,0%09d\n", $i, $of, $of, $of % 97, $of * 7919 % 1_000_000_007));
}
fclose($file);
$harbour = (string) getenv('HARBOUR_OFFICE_DATABASE');
$processor = function (): float {
    $use = getrusage() ?: [];
    $pid = (int) trim((string) file_get_contents((string) DB::scalar('SELECT @@pid_file')));
    $stat = explode(' ', (string) preg_replace('/^.*\) /', '', (string) file_get_contents("/proc/$pid/stat")));

    return $use['ru_utime.tv_sec'] + $use['ru_stime.tv_sec'] + ($use['ru_utime.tv_usec'] + $use['ru_stime.tv_usec']) / 1e6
        + ($stat[11] + $stat[12]) / 100;
};
$run = function (bool $matched) use ($app, $folder, $harbour, $processor): array {
    Illuminate\Support\Facades\Artisan::call('migrate:fresh', ['--force' => true]);
    DB::unprepared("CREATE OR REPLACE DATABASE $harbour CHARACTER SET utf8mb4");
    DB::unprepared("CREATE TABLE $harbour.party (id INT UNSIGNED NOT NULL AUTO_INCREMENT PRIMARY KEY, name VARCHAR(60) NOT NULL, "
        .'mail VARCHAR(80) NULL, town VARCHAR(40) NULL, phone VARCHAR(20) NULL) ENGINE=InnoDB');
    $on = ['name' => 'letters', 'mail' => 'email', 'town' => 'letters', 'phone' => 'digits'];
    file_put_contents("$folder/match.yaml", Yaml::dump([
        'baggage' => 1,
        'migration' => 'Match',
        'target' => ['application' => 'bench', 'connections' => [[
            'name' => 'bench', 'host' => '127.0.0.1', 'port' => '${HARBOUR_OFFICE_PORT}', 'database' => $harbour, 'username' => 'harbour',
            'password_env' => 'HARBOUR_OFFICE_PASSWORD',
        ]]],
        'sources' => [['code' => 'L', 'name' => 'L', 'extracts' => [['name' => 'party', 'file' => 'party.csv']]]],
        'match_rules' => $matched ? [['name' => 'same', 'entity' => 'party', 'on' => $on]] : [],
        'loads' => [[
            'name' => 'Parties', 'entity' => 'party', 'from' => 'L/party', 'key' => ['no'],
            'fields' => ['name' => 'trim(name)', 'mail' => 'trim(mail)', 'town' => 'trim(town)', 'phone' => 'trim(phone)'],
        ] + ($matched ? ['match' => ['same']] : [])],
    ], 8));
    $headless = $app->make(Headless::class);
    $migration = $headless->import("$folder/match.yaml");
    $headless->freeze($migration, "$folder/match.yaml", fn (Extract $e, Take $t) => null);
    [$start, $used] = [microtime(true), $processor()];
    $round = $headless->run($migration, 'bench', null);
    [$seconds, $used] = [microtime(true) - $start, $processor() - $used];
    $outcomes = (new Report)->of($round)['loads'][0]['outcomes'];
    printf(
        "%-16s %6.1f s, %6.1f s of processor time, %s loaded, %s merged\n",
        $matched ? 'four fields' : 'no match rule',
        $seconds,
        $used,
        number_format($outcomes['loaded']),
        number_format($outcomes['merged']),
    );

    return [$seconds, $used];
};
$run(false);
[$without, $plain] = $run(false);
[$with, $matched] = $run(true);
printf("ratio            %6.2f by the clock, %.2f by processor time\n", $with / $without, $matched / $plain);
