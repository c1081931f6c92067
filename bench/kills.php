<?php

// php bench/kills.php [--kills=500] [--rows=1500] [--seed=7] [--workers=1]: passes of real workers, one of them killed with -9 at
// random moments and another begun in its stead, over random deliveries with repeated and blank keys, references that wait and a
// load that only changes records. What a pass leaves in ledger and target is compared with plain loops over the same rows, and the
// target is counted. Prints every difference.

use App\Loading\PassRunner;
use App\Loading\Rounds;
use App\Models\Pass;
use App\Models\PassKind;
use App\Plans\Headless;
use App\Reconciling\Proofs;
use Illuminate\Support\Facades\DB;
use Symfony\Component\Process\Process;
use Tests\Support\PlainRound;

// The worker that is killed works on a pass that is there, so nothing is thrown away first.
$options = getopt('', ['kills:', 'rows:', 'seed:', 'workers:', 'work:']);
require __DIR__.'/begin.php';
config(['baggage.batch' => 20]);
if (isset($options['work'])) {
    PassRunner::of(Pass::query()->findOrFail((int) $options['work']), 0)->work();
    exit(0);
}
$wanted = (int) ($options['kills'] ?? 500);
$random = new Random\Randomizer(new Random\Engine\Mt19937((int) ($options['seed'] ?? 7)));
$many = max(20, (int) ($options['rows'] ?? 1500));
$harbour = (string) getenv('HARBOUR_OFFICE_DATABASE');
file_put_contents("$folder/plan.yaml", <<<YAML
    baggage: 1
    migration: Kills
    target:
      application: bench
      connections:
        - {name: bench, host: 127.0.0.1, port: "\${HARBOUR_OFFICE_PORT}", database: $harbour, username: harbour,
           password_env: HARBOUR_OFFICE_PASSWORD}
    sources: [{code: S, name: S, extracts: [{name: party, file: party.csv}, {name: names, file: names.csv}, {name: boat, file: boat.csv}]}]
    code_crosswalks: [{name: countries, entries: {N: 'NO', S: SE}}]
    loads:
      - {name: party, entity: party, from: S/party, key: [no],
         fields: {name: trim(name), country: "code('countries', country)", bill_to: parent(bill_to)}}
      - {name: names, entity: party, from: S/names, key: [no], policy: update, fields: {name: trim(name)}}
      - {name: boat, entity: boat, from: S/boat, key: [no], fields: {name: trim(name), owner: parent(owner)}}

    YAML);

/** @return array<string, array<int, array<string, string>>> load → row number → row, written as files too */
$deliver = function () use ($random, $folder, $many): array {
    $any = fn (array $of) => $of[$random->getInt(0, count($of) - 1)];
    $all = [];
    foreach (['party', 'names', 'boat'] as $load) {
        for ($i = 1; $i <= $many; $i++) {
            $key = fn () => 'K'.$random->getInt(1, $many);
            $all[$load][$i] = [
                'no' => $any(['', $key(), "K$i", "K$i", "K$i", "K$i", "K$i", "K$i"]),
                'name' => $any(['', 'Ann', 'Bo', 'Cy', 'Di', 'Eve', "N$i"]),
                'country' => $any(['N', 'N', 'N', 'S', 'S', '', 'X']),
                'bill_to' => $any(['', '', $key(), 'none']),
                'owner' => $any([$key(), $key(), $key(), $key(), 'none', '']),
            ];
        }
        $lines = array_map(fn (array $r) => implode(',', $r)."\n", $all[$load]);
        file_put_contents("$folder/$load.csv", "no,name,country,bill_to,owner\n".implode('', $lines));
    }

    return $all;
};
/** Kills a worker of the pass again and again until it finishes or enough have been killed; then lets it finish. */
$finish = function (Pass $pass) use (&$kills, &$resumed, $wanted, $random, $harbour, $options): void {
    $workers = [];
    while ($pass->refresh()->state->value !== 'finished') {
        if ($pass->state->value === 'failed') {
            $resumed++;
            $pass->update(['state' => 'queued']);
        }
        $workers = array_values(array_filter($workers, fn (Process $p) => $p->isRunning()));
        while (count($workers) < (int) ($options['workers'] ?? 1)) {
            $worker = new Process([PHP_BINARY, __FILE__, "--work=$pass->id"]);
            $worker->start();
            $workers[] = $worker;
        }
        // They have to get somewhere first: a pass that breaks off three times at one place is not tried again.
        $done = fn () => (int) DB::scalar('SELECT SUM(rows_done) FROM pass_loads WHERE pass_id = ?', [$pass->id]);
        for ($before = $done(); $workers[0]->isRunning() && $done() === $before;) {
            usleep(2_000);
        }
        usleep($random->getInt(0, 150_000));
        $one = $workers[$random->getInt(0, count($workers) - 1)];
        $pid = $kills < $wanted ? $one->getPid() : null;
        if ($pid !== null && posix_kill($pid, SIGKILL)) {
            $kills++;
        }
        // The server notices in its own time; until then the locks of the dead are held.
        $alive = 'SELECT COUNT(*) FROM information_schema.processlist WHERE db IN (DATABASE(), ?) AND id <> CONNECTION_ID()';
        for ($i = 0; count($workers) === 1 && $i < 500 && (int) DB::scalar($alive, [$harbour]) > 0; $i++) {
            usleep(10_000);
        }
    }
    for ($i = 0; $i < 1_000 && array_filter($workers, fn (Process $p) => $p->isRunning()) !== []; $i++) {
        usleep(10_000);
    }
};
$kills = $resumed = $passes = $rows = $wrong = 0;
$tell = function (string $what) use (&$wrong): void {
    $wrong++;
    echo $what, PHP_EOL;
};
while ($kills < $wanted) {
    DB::unprepared("CREATE OR REPLACE DATABASE $harbour CHARACTER SET utf8mb4");
    DB::unprepared("CREATE TABLE $harbour.party (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40) NOT NULL, "
        .'country VARCHAR(9) NOT NULL, bill_to INT NULL, FOREIGN KEY (bill_to) REFERENCES party (id)) ENGINE=InnoDB');
    DB::unprepared("CREATE TABLE $harbour.boat (id INT AUTO_INCREMENT PRIMARY KEY, name VARCHAR(40) NOT NULL, owner INT NOT NULL, "
        .'FOREIGN KEY (owner) REFERENCES party (id)) ENGINE=InnoDB');
    Illuminate\Support\Facades\Artisan::call('migrate:fresh', ['--force' => true]);
    $all = $deliver();
    $headless = $app->make(Headless::class);
    $migration = $headless->import("$folder/plan.yaml");
    $headless->freeze($migration, "$folder/plan.yaml", fn () => null);
    $rounds = $app->make(Rounds::class);
    $round = $rounds->begin($migration, $migration->targets()->firstOrFail(), 'rehearsal-1');
    $pass = $rounds->pass($round, PassKind::First);
    $finish($pass);
    $plain = new PlainRound($all);
    $plain->first(['rule' => 'trim(name)', 'codes' => ['N' => 'NO', 'S' => 'SE']]);
    $passes++;
    if ($pass->refresh()->state->value !== 'finished') {
        $tell("pass of delivery $passes is {$pass->state->value}: $pass->error");

        break;
    }
    $records = [];
    foreach ($migration->loads as $load) {
        $lines = DB::table('outcomes')->where('load_id', $load->id)->orderBy('item')->get()->keyBy('item');
        $rows += count($lines);
        $outcomes = $lines->map(fn ($l) => $l->outcome)->all();
        $byLoops = $plain->outcomes[$load->name];
        foreach (array_keys(array_diff_assoc($byLoops, $outcomes) + array_diff_assoc($outcomes, $byLoops)) as $i) {
            $tell("delivery $passes, $load->name row $i: ".($outcomes[$i] ?? 'no line').', by loops '.($byLoops[$i] ?? 'no row'));
        }
        $records[$load->name] = $lines->whereNotNull('target_key')->pluck('target_key', 'item')->all();
    }
    $by = fn (string $sql): array => array_column(array_map(fn ($r) => (array) $r, DB::select($sql)), null, 'id');
    $there = ['party' => $by("SELECT p.* FROM $harbour.party p"), 'boat' => $by("SELECT b.* FROM $harbour.boat b")];
    $keys = [];
    foreach ($records['party'] as $row => $target) {
        $keys[$target] = trim($all['party'][$row]['no']);
    }
    foreach (['party' => 'bill_to', 'boat' => 'owner'] as $load => $reference) {
        if (count($there[$load]) !== count($records[$load])) {
            $tell("delivery $passes: ".count($there[$load])." records of $load, ".count($records[$load]).' rows that have one');
        }
        foreach ($records[$load] as $row => $target) {
            $record = $there[$load][$target] ?? null;
            $expected = $plain->records[$load][$row] ?? [];
            $parent = $expected[$reference] ?? null;
            $parent = in_array($parent, $keys, true) ? $parent : null;
            if ($record === null || $record['name'] !== $expected['name'] || ($keys[$record[$reference]] ?? null) !== $parent) {
                $tell("delivery $passes, $load row $row became ".json_encode($record).', by loops '.json_encode($expected));
            }
        }
    }
    foreach (Proofs::of($round)->entities() as $entity => $proof) {
        if ([$proof->unaccounted(), $proof->targetGap(), $proof->otherOrigin] !== [0, 0, 0]) {
            $tell("delivery $passes: the proof of $entity does not hold");
        }
    }
}
echo number_format($kills), ' kills over ', number_format($passes), ' passes with ', number_format($rows), ' rows, ',
"$resumed times given up and resumed by hand, $wrong wrong\n";
exit($wrong === 0 ? 0 : 1);
