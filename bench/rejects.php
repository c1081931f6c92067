<?php

// php bench/rejects.php [--rows=1000000] [--walks=9]: a round of 1,000,000 rows, 50,000 of them rejected for 2,000 causes and 200,000
// held below them, and one of a hundredth of that. Prints the median of the screen of rejects and of an opened cause in milliseconds,
// as a browser waits for them, for both, and the ratio; seconds of dry runs of a repair on 1,000 to 10,000 rejected rows and what is
// held below them, per row; and the memory they take above that of the small round.

use App\DryRuns\DryRuns;
use App\DryRuns\Supposed;
use App\DryRuns\WorkOnDryRun;
use App\Ledger\CauseSet;
use App\Models\Extract;
use App\Models\Load;
use App\Models\Membership;
use App\Models\Role;
use App\Models\Take;
use App\Models\User;
use App\Plans\Headless;
use App\Reconciling\CountBook;
use Illuminate\Support\Facades\DB;
use Symfony\Component\Process\Process;

putenv('CACHE_STORE=file');
require __DIR__.'/begin.php';
$options = getopt('', ['rows:', 'walks:']);
[$rows, $walks] = [(int) ($options['rows'] ?? 1_000_000), (int) ($options['walks'] ?? 9)];
Illuminate\Support\Facades\Artisan::call('migrate:fresh', ['--force' => true]);
config(['queue.default' => 'null', 'baggage.apart.on' => false]);
$target = new PDO('mysql:host=127.0.0.1;port='.getenv('DB_PORT'), (string) getenv('DB_USERNAME'), (string) getenv('DB_PASSWORD'));
$user = User::query()->create(['name' => 'B', 'email' => 'b@example.test', 'password' => bcrypt('bench-password')]);
$port = 18000 + getmypid() % 1000;
$server = new Process(
    ['setsid', PHP_BINARY, '-d', 'opcache.enable_cli=1', '-d', 'memory_limit=256M', '-S', "127.0.0.1:$port", "$root/support/serve.php"],
    "$root/public",
    ['APP_ENV' => 'production', 'APP_URL' => "http://127.0.0.1:$port", 'CACHE_STORE' => 'file'],
    null,
    null,
);
$server->disableOutput();
$server->start();
sleep(1);
@unlink($jar = "$folder/jar");
$ask = function (string $path, ?array $post = null) use ($port, $jar): array {
    $curl = curl_init("http://127.0.0.1:$port$path");
    curl_setopt_array($curl, [
        CURLOPT_RETURNTRANSFER => true, CURLOPT_COOKIEFILE => $jar, CURLOPT_COOKIEJAR => $jar, CURLOPT_TIMEOUT => 120,
    ] + ($post === null ? [] : [CURLOPT_POSTFIELDS => http_build_query($post)]));
    $text = (string) curl_exec($curl);

    return [$text, curl_getinfo($curl, CURLINFO_TOTAL_TIME) * 1000, curl_getinfo($curl, CURLINFO_RESPONSE_CODE)];
};
preg_match('/name="_token" value="([^"]+)"/', $ask('/login')[0], $token);
$ask('/login', ['_token' => $token[1], 'email' => 'b@example.test', 'password' => 'bench-password']);

/** A round of so many rows: three quarters load, a twentieth is rejected, a fifth waits for those. */
$make = function (int $rows) use ($app, $folder, $target, $user): array {
    $name = "rejects_$rows";
    $database = getenv('DB_DATABASE')."_$rows";
    $target->exec("CREATE OR REPLACE DATABASE $database CHARACTER SET utf8mb4");
    $target->exec("CREATE TABLE $database.party (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40) NOT NULL, kind VARCHAR(20) NOT NULL, "
        .'clerk VARCHAR(20)) ENGINE=InnoDB');
    $target->exec("CREATE TABLE $database.boat (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40) NOT NULL, owner INT NOT NULL, "
        .'FOREIGN KEY (owner) REFERENCES party (id)) ENGINE=InnoDB');
    @mkdir("$folder/$name");
    [$parties, $boats] = [fopen("$folder/$name/party.csv", 'w'), fopen("$folder/$name/boat.csv", 'w')];
    fwrite($parties, "no,name,kind,clerk,entered\n");
    fwrite($boats, "no,name,owner\n");
    [$bad, $causes] = [intdiv($rows, 20), max(1, intdiv($rows, 500))];
    for ($i = 1; $i <= $rows * 4 / 5; $i++) {
        $isBad = $i % 16 === 0 && intdiv($i, 16) <= $bad;
        $kind = $isBad ? 'X'.(intdiv($i, 16) % $causes) : 'P';
        fwrite($parties, "$i,Name $i,$kind,".($isBad ? 'Ines' : 'Clerk '.$i % 9).',0'.(1 + $i % 9).'/03/'.(1990 + $i % 30)."\n");
    }
    for ($i = 1; $i <= $rows / 5; $i++) {
        fwrite($boats, "B$i,Boat $i,".(16 * (1 + $i % $bad))."\n");
    }
    fclose($parties);
    fclose($boats);
    file_put_contents("$folder/$name/plan.yaml", <<<YAML
        baggage: 1
        migration: $name
        target:
          application: bench
          connections:
            - {name: bench, host: 127.0.0.1, port: "\${HARBOUR_OFFICE_PORT}", database: $database, username: harbour,
               password_env: HARBOUR_OFFICE_PASSWORD}
        sources: [{code: L, name: Legacy, extracts: [{name: party, file: party.csv}, {name: boat, file: boat.csv}]}]
        code_crosswalks: [{name: kinds, entries: {P: person}}]
        loads:
          - {name: Parties, entity: party, from: L/party, key: [no],
             fields: {name: trim(name), kind: "code('kinds', kind)", clerk: trim(clerk)}}
          - {name: Boats, entity: boat, from: L/boat, key: [no], fields: {name: trim(name), owner: parent(owner)}}
        YAML);
    $target->exec("GRANT ALL ON $database.* TO harbour@'127.0.0.1'");
    $headless = $app->make(Headless::class);
    $migration = $headless->import("$folder/$name/plan.yaml");
    Membership::give($user, $migration, Role::Lead);
    $headless->freeze($migration, "$folder/$name/plan.yaml", fn (Extract $e, Take $t) => null);
    $round = $headless->run($migration, 'rehearsal-1', null);
    CountBook::now($round);

    return [$migration, $round];
};
$median = function (array $times): float {
    sort($times);

    return $times[intdiv(count($times), 2)];
};
$found = $made = [];
foreach ([intdiv($rows, 100), $rows] as $of) {
    $began = microtime(true);
    [$migration, $round] = $make($of);
    $count = fn (string $outcome) => number_format((float) DB::table('tallies')->where('lane_id', $round->laneId())
        ->where('outcome', $outcome)->sum('n'));
    printf("%s rows, %s rejected for %s causes, %s held, made in %.0f s\n", number_format($of), $count('rejected'), number_format(
        DB::table('causes as c')->join('cause_tallies as t', 't.cause_id', '=', 'c.id')->where('c.lane_id', $round->laneId())
            ->where('t.outcome', 'rejected')->count(),
    ), $count('held'), microtime(true) - $began);
    $made[$of] = [$migration, $round, (int) Load::query()->where('migration_id', $migration->id)->where('name', 'Parties')->value('id')];
}
// In turns, so that both are asked of the same machine in the same state.
foreach (['rejects' => '', 'cause' => '?cause=%s', 'held' => '?show=held', 'a page of values' => '?cause=%s&find=7'] as $name => $query) {
    $times = [];
    for ($i = 0; $i <= $walks; $i++) {
        foreach ($made as $of => [$migration, , $load]) {
            [, $ms, $status] = $ask("/m/$migration->id/rejects".sprintf($query, urlencode("$load~mapping~no_new_value~kind")));
            $status === 200 ?: exit("$name: $status\n");
            $times[$of][] = $ms;
        }
    }
    $found[$name] = array_map(fn (array $of) => $median(array_slice($of, 1)), array_values($times));
}
foreach ($made as $of => [$migration, $round, $load]) {
    echo number_format($of), " rows\n";
    // One dry run first, so that nothing is made ready within the others.
    $causes = DB::table('causes as c')->join('cause_tallies as t', 't.cause_id', '=', 'c.id')->where('c.lane_id', $round->laneId())
        ->where('t.outcome', 'rejected')->where('c.load_id', $load)->orderBy('c.id')->get(['c.id', 'c.value', 't.n'])->all();
    foreach ($of === $rows ? [1_000, 1_000, 2_500, 5_000, 10_000] : [100, 500] as $wanted) {
        $ids = $olds = [];
        for ($n = 0; $n < $wanted && count($ids) < count($causes);) {
            $cause = $causes[count($ids)];
            [$ids[], $olds[]] = [(int) $cause->id, $cause->value];
            $n += (int) $cause->n;
        }
        $code = ['crosswalk' => 'kinds', 'olds' => $olds, 'new' => 'person', 'rejects' => false];
        $run = DryRuns::ofRepair($round, new Supposed($load, CauseSet::some($ids), code: $code), 'bench');
        gc_collect_cycles();
        memory_reset_peak_usage();
        $before = memory_get_usage();
        $began = microtime(true);
        (new WorkOnDryRun($run->id))->handle();
        $seconds = microtime(true) - $began;
        $tried = $run->refresh()->found['tried'] ?? exit("The dry run: $run->error\n");
        $memory = (memory_get_peak_usage() - $before) / 2 ** 20;
        printf("  dry run of %s rows, %s tried with those below: %.2f s, %.1f ms for a hundred, %.1f MB\n",
            number_format($n), number_format($tried), $seconds, $seconds * 1e5 / $tried, $memory);
        $found['memory'][$of] = max($memory, $found['memory'][$of] ?? 0);
    }
}
posix_kill(-(int) $server->getPid(), SIGTERM);
printf("%-20s %10s %10s %7s\n", 'screen', 'few', 'many', 'ratio');
foreach (array_diff_key($found, ['memory' => 0]) as $name => [$few, $many]) {
    printf("%-20s %8.1f ms %8.1f ms %7.2f\n", $name, $few, $many, $many / $few);
}
printf("memory of a dry run: %.1f MB above that of the small round\n", max($found['memory']) - min($found['memory']));
