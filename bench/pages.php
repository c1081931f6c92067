<?php

// php bench/pages.php [--outcomes=1000000] [--users=8] [--pause=2] [--walks=2]: people who walk all stops, each with a pause between
// pages, on the demo as it is loaded (37,930 rows) and again when the same round has a million outcomes, 30,000 of them rejected for
// 500 causes. The web server is the one bin/start starts. Prints median and 95th percentile of each screen in milliseconds, as the
// browser waits for it, and the ratio of the medians.

use App\Models\Extract;
use App\Models\Load;
use App\Models\Membership;
use App\Models\Role;
use App\Models\Take;
use App\Models\User;
use App\Plans\Headless;
use App\Reconciling\CountBook;
use App\View\Page;
use Demo\Generator;
use Illuminate\Support\Facades\DB;
use Standins\HarbourOffice;
use Symfony\Component\Process\Process;
use Tests\Support\Multiplied;

putenv('CACHE_STORE=file');
require __DIR__.'/begin.php';
$options = getopt('', ['outcomes:', 'users:', 'pause:', 'walks:']);
[$outcomes, $users] = [(int) ($options['outcomes'] ?? 1_000_000), (int) ($options['users'] ?? 8)];
[$pause, $walks] = [(float) ($options['pause'] ?? 2), (int) ($options['walks'] ?? 2)];

Illuminate\Support\Facades\Artisan::call('migrate:fresh', ['--force' => true]);
$target = new PDO(
    'mysql:host=127.0.0.1;port='.getenv('DB_PORT').';dbname='.getenv('HARBOUR_OFFICE_DATABASE'),
    (string) getenv('HARBOUR_OFFICE_USERNAME'),
    (string) getenv('HARBOUR_OFFICE_PASSWORD'),
);
HarbourOffice::reset($target);
(new Generator(1, 1998, "$folder/demo"))->write();
$headless = $app->make(Headless::class);
$migration = $headless->import("$folder/demo/plan.yaml");
$headless->freeze($migration, "$folder/demo/plan.yaml", fn (Extract $e, Take $t) => null);
$headless->study($migration);
$round = $headless->run($migration, 'rehearsal-1', null);
CountBook::now($round);
for ($i = 1; $i <= $users; $i++) {
    $user = User::query()->create([
        'name' => "User $i",
        'email' => "u$i@example.test",
        'password' => bcrypt('bench-password'),
    ]);
    Membership::give($user, $migration, Role::Lead);
}

$port = 18000 + getmypid() % 1000;
$server = new Process(
    ['setsid', PHP_BINARY, '-d', 'opcache.enable_cli=1', '-d', 'memory_limit=256M', '-S', "127.0.0.1:$port",
        "$root/support/serve.php"],
    "$root/public",
    ['PHP_CLI_SERVER_WORKERS' => '4', 'APP_ENV' => 'production', 'APP_URL' => "http://127.0.0.1:$port", 'CACHE_STORE' => 'file'],
    null,
    null,
);
$server->disableOutput();
$server->start();
sleep(1);

$load = Load::query()->where('name', 'Vessels')->firstOrFail();
$cause = DB::table('causes as c')->join('cause_tallies as t', 't.cause_id', '=', 'c.id')
    ->where('t.outcome', 'rejected')->where('c.load_id', $load->id)->orderBy('c.id')->first(['c.id', 'c.stage', 'c.code', 'c.field']);
$alike = urlencode("$load->id~$cause->stage~$cause->code~$cause->field");
$m = "/m/$migration->id";
$screens = ['/'];
foreach (array_keys(Page::STOPS) as $stop) {
    array_push($screens, "$m/$stop", "$m/$stop/vessel");
}
array_push(
    $screens,
    "$m/rejects?cause=$alike", "$m/rejects?show=held", "$m/rejects?show=references", "$m/crosswalks?code=keys",
    "$m/rows/vessel?outcome=rejected", "$m/rows?outcome=loaded", "$m/rows/vessel?load=$load->id&alike=$alike",
    "$m/rows/$load->id/5", "$m/trace?q=none", "$m/sources/extracts/$load->extract_id", "$m/sources/extracts/$load->extract_id?show=rows",
    "$m/mapping/loads/$load->id/record/5",
);

$client = function (string $jar, string $url) {
    $curl = curl_init($url);
    curl_setopt_array($curl, [
        CURLOPT_RETURNTRANSFER => true,
        CURLOPT_COOKIEFILE => $jar,
        CURLOPT_COOKIEJAR => $jar,
        CURLOPT_TIMEOUT => 60,
    ]);

    return $curl;
};
$jars = [];
for ($i = 1; $i <= $users; $i++) {
    $jars[$i] = "$folder/jar$i";
    @unlink($jars[$i]);
    $curl = $client($jars[$i], "http://127.0.0.1:$port/login");
    preg_match('/name="_token" value="([^"]+)"/', (string) curl_exec($curl), $found);
    curl_setopt_array($curl, [
        CURLOPT_POST => true,
        CURLOPT_POSTFIELDS => http_build_query(['_token' => $found[1], 'email' => "u$i@example.test", 'password' => 'bench-password']),
    ]);
    curl_exec($curl);
    if (curl_getinfo($curl, CURLINFO_RESPONSE_CODE) !== 302) {
        exit("Nobody can log in.\n");
    }
    curl_close($curl);
}

/** @return array<string, list<float>> screen → milliseconds */
$walk = function () use ($client, $jars, $screens, $port, $pause, $walks): array {
    $times = [];
    $multi = curl_multi_init();
    $plan = $next = $going = [];
    foreach ($jars as $user => $jar) {
        // Each begins at another place, so that not all ask for the same page at once.
        $from = $user * 5 % count($screens);
        $plan[$user] = array_merge(...array_fill(0, $walks, [...array_slice($screens, $from), ...array_slice($screens, 0, $from)]));
        $next[$user] = microtime(true) + $user * $pause / count($jars);
    }
    while ($plan !== [] || $going !== []) {
        foreach ($next as $user => $at) {
            if (microtime(true) >= $at && $plan[$user] !== []) {
                $curl = $client($jars[$user], "http://127.0.0.1:$port".reset($plan[$user]));
                $going[spl_object_id($curl)] = [$user, array_shift($plan[$user]), $curl];
                curl_multi_add_handle($multi, $curl);
                unset($next[$user]);
            }
        }
        curl_multi_exec($multi, $running);
        while ($done = curl_multi_info_read($multi)) {
            [$user, $screen, $curl] = $going[spl_object_id($done['handle'])];
            if (curl_getinfo($curl, CURLINFO_RESPONSE_CODE) >= 400) {
                exit("$screen: ".curl_getinfo($curl, CURLINFO_RESPONSE_CODE)."\n");
            }
            $times[$screen][] = curl_getinfo($curl, CURLINFO_TOTAL_TIME) * 1000;
            curl_multi_remove_handle($multi, $curl);
            unset($going[spl_object_id($done['handle'])]);
            if ($plan[$user] === []) {
                unset($plan[$user]);
            } else {
                $next[$user] = microtime(true) + $pause;
            }
        }
        curl_multi_select($multi, 0.005);
    }

    return $times;
};
$at = function (array $times, float $share): float {
    sort($times);

    return $times[(int) min(count($times) - 1, floor(count($times) * $share))];
};

$walk();
$few = $walk();
printf("%s outcomes\n", number_format(DB::table('outcomes')->count()));
Multiplied::round($round, (int) ceil($outcomes / DB::table('outcomes')->count()) - 1, 500, (int) ($outcomes * 0.03));
CountBook::now($round);
printf(
    "%s outcomes, %s rejected for %s causes\n",
    number_format(DB::table('outcomes')->count()),
    number_format(DB::table('tallies')->where('outcome', 'rejected')->sum('n')),
    number_format(DB::table('cause_tallies')->where('outcome', 'rejected')->where('n', '>', 0)->count()),
);
$many = $walk();
// With the processes it started.
posix_kill(-(int) $server->getPid(), SIGTERM);
printf("%-44s %8s %8s %8s %8s %7s\n", 'screen', 'median', '95 %', 'median', '95 %', 'ratio');
$worst = [0.0, 0.0];
foreach ($few as $screen => $times) {
    $figures = [$at($times, 0.5), $at($times, 0.95), $at($many[$screen], 0.5), $at($many[$screen], 0.95)];
    $ratio = $figures[2] / $figures[0];
    $worst = [max($worst[0], $ratio), max($worst[1], $figures[3])];
    printf("%-44s %8.1f %8.1f %8.1f %8.1f %7.2f\n", strtok($screen, '~') ?: $screen, ...[...$figures, $ratio]);
}
printf("worst ratio %.2f, worst 95th percentile %.0f ms\n", ...$worst);
