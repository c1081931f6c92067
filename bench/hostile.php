<?php

// php bench/hostile.php [--seconds=30]: pages of somebody at work while two others upload and preview files that would take a machine
// (views that never end, enormous cells, endless lines, XML and workbooks beyond all bounds) at the real limits, on PHP's own web server
// with four processes, a worker and one for looks. Prints median and 95th percentile of the pages without and with them in milliseconds
// and the ratio of the medians, what each file was told, and the seconds from a stop to its end.

use App\Models\Membership;
use App\Models\Role;
use App\Models\Take;
use App\Models\TakeState;
use App\Models\User;
use App\Plans\Headless;
use Demo\Generator;
use Illuminate\Support\Facades\Artisan;
use Standins\HarbourOffice;
use Symfony\Component\Process\Process;
use Tests\Foreign\ExcessTest;

putenv('CACHE_STORE=file');
require __DIR__.'/begin.php';
$seconds = (int) (getopt('', ['seconds:'])['seconds'] ?? 30);
Artisan::call('migrate:fresh', ['--force' => true]);
HarbourOffice::reset(new PDO(
    'mysql:host=127.0.0.1;port='.getenv('DB_PORT').';dbname='.getenv('HARBOUR_OFFICE_DATABASE'),
    (string) getenv('HARBOUR_OFFICE_USERNAME'),
    (string) getenv('HARBOUR_OFFICE_PASSWORD'),
));
(new Generator(0.2, 1998, "$folder/demo"))->write();
$headless = $app->make(Headless::class);
$migration = $headless->import("$folder/demo/plan.yaml");
$headless->freeze($migration, "$folder/demo/plan.yaml", fn () => null);
foreach (['worker', 'one', 'two'] as $name) {
    $user = User::query()->create(['name' => $name, 'email' => "$name@example.test", 'password' => 'bench-password']);
    Membership::give($user, $migration, Role::Lead);
}
$files = [];
$endless = 'WITH RECURSIVE n(i) AS (SELECT 1 UNION ALL SELECT i + 1 FROM n) SELECT i FROM n';
$views = [
    'counts for ever' => "$endless WHERE i < 0",
    'rows for ever' => $endless,
    'a cell of 900 MB' => 'SELECT zeroblob(900000000) AS a',
];
foreach ($views as $is => $view) {
    $files[$is] = "$folder/".md5($is);
    @unlink($files[$is]);
    (new PDO("sqlite:$files[$is]"))->exec("CREATE VIEW v AS $view");
}
foreach (ExcessTest::excesses() as $is => [$bytes]) {
    file_put_contents($files[$is] = "$folder/".md5($is), $bytes);
}
$port = 18000 + getmypid() % 1000;
$environment = ['PHP_CLI_SERVER_WORKERS' => '4', 'APP_ENV' => 'production', 'APP_URL' => "http://127.0.0.1:$port", 'CACHE_STORE' => 'file',
    'BAGGAGE_APART' => '1', 'QUEUE_CONNECTION' => 'database'];
$web = [PHP_BINARY, '-d', 'opcache.enable_cli=1', '-d', 'upload_max_filesize=64M', '-d', 'post_max_size=65M', '-S', "127.0.0.1:$port",
    "$root/support/serve.php"];
$served = array_map(function (array $command) use ($root, $environment) {
    $process = new Process(['setsid', ...$command], "$root/public", $environment, null, null);
    $process->disableOutput();
    $process->start();

    return $process;
}, [
    $web,
    [PHP_BINARY, "$root/artisan", 'queue:work', '--queue=takes', '--sleep=0.2', '--timeout=0', '--tries=1'],
    [PHP_BINARY, "$root/artisan", 'queue:work', '--queue=takes', '--sleep=0.2', '--timeout=0', '--tries=1'],
    [PHP_BINARY, "$root/artisan", 'queue:work', '--queue=passes,rows', '--sleep=0.2', '--timeout=0', '--tries=1'],
    [PHP_BINARY, "$root/artisan", 'queue:work', '--queue=looks', '--sleep=0.2', '--timeout=0', '--tries=1'],
]);
register_shutdown_function(fn () => array_map(fn (Process $of) => posix_kill(-(int) $of->getPid(), SIGKILL), $served));
sleep(1);

$ask = function (string $jar, string $path, array $post = [], bool $isFile = false) use ($port): array {
    $curl = curl_init("http://127.0.0.1:$port$path");
    curl_setopt_array($curl, [CURLOPT_RETURNTRANSFER => true, CURLOPT_HEADER => true]);
    curl_setopt_array($curl, [CURLOPT_COOKIEJAR => $jar, CURLOPT_COOKIEFILE => $jar]);
    $post === [] ? null : curl_setopt($curl, CURLOPT_POSTFIELDS, $isFile ? $post : http_build_query($post));
    $began = hrtime(true);
    $answer = (string) curl_exec($curl);
    $took = (hrtime(true) - $began) / 1e6;
    preg_match('/name="_token" value="([^"]+)/', $answer, $token);
    preg_match('/^Location: http:\/\/[^\/]+(\S+)/mi', $answer, $to);

    return [$answer, $took, $token[1] ?? '', $to[1] ?? ''];
};
$login = function (string $name) use ($ask, $folder): array {
    $jar = "$folder/$name.jar";
    @unlink($jar);
    $token = $ask($jar, '/login')[2];
    $ask($jar, '/login', ['_token' => $token, 'email' => "$name@example.test", 'password' => 'bench-password']);

    return [$jar, $ask($jar, '/account')[2]];
};
$m = "/m/$migration->id";
[$jar] = $login('worker');
$pages = ["$m/sources", "$m/mapping/vessel", "$m/runs", "$m/crosswalks", "$m/order", "$m/people", '/'];
$walk = function (float $until) use ($ask, $jar, $pages): array {
    $took = [];
    while (microtime(true) < $until) {
        foreach ($pages as $page) {
            $took[] = $ask($jar, $page)[1];
            usleep(150_000);
        }
    }
    sort($took);

    return [$took[intdiv(count($took), 2)], $took[(int) (count($took) * 0.95)]];
};
$walk(microtime(true) + 3);
[$before, $before95] = $walk(microtime(true) + $seconds / 3);

$attack = function (string $name) use ($ask, $login, $files, $m, $seconds): array {
    [$jar, $token] = $login($name);
    $told = [];
    for ($until = microtime(true) + $seconds; microtime(true) < $until;) {
        foreach ($name === 'one' ? $files : array_reverse($files) as $is => $path) {
            $sent = ['_token' => $token, 'source' => 1, 'file' => new CURLFile($path, null, 'x.bin')];
            $to = $ask($jar, "$m/sources/upload", $sent, true)[3];
            [$answer, $took] = $ask($jar, "$to?part=0");
            preg_match('/<div class="note[^>]*>\s*([^<]{0,70})/', $answer, $note);
            $told[$is] = trim($note[1] ?? 'shown').sprintf(' (%.1f s)', $took / 1000);
        }
    }

    return $told;
};
$pids = [];
foreach (['one', 'two'] as $name) {
    $pid = pcntl_fork();
    if ($pid === 0) {
        file_put_contents("$folder/$name.told", json_encode($attack($name)));
        posix_kill((int) getmypid(), SIGKILL);
    }
    $pids[] = $pid;
}
[$with, $with95] = $walk(microtime(true) + $seconds);
array_map(fn (int $pid) => pcntl_waitpid($pid, $status), $pids);
foreach (json_decode((string) file_get_contents("$folder/one.told"), true) as $is => $says) {
    printf("  %-32s %s\n", $is, $says);
}
printf('pages: %.0f ms alone (95th %.0f), ', $before, $before95);
printf("%.0f ms beside them (95th %.0f): %.2f to 1\n", $with, $with95, $with / $before);

Illuminate\Support\Facades\DB::reconnect();
$source = $migration->sources()->firstOrFail();
$extract = $source->extracts()->create(['name' => 'endless', 'reader' => ['kind' => 'database', 'table' => 'v']]);
$take = $extract->newTake(['file' => $files['counts for ever'], 'file_name' => 'x.db', 'bytes' => 8192]);
config(['queue.default' => 'database']);
App\Freezing\FreezeTake::dispatch($take->id);
while (Take::query()->whereKey($take->id)->value('state') !== TakeState::Reading) {
    usleep(50_000);
}
sleep(1);
$began = microtime(true);
Take::query()->whereKey($take->id)->update(['state' => TakeState::Stopping]);
while (Take::query()->whereKey($take->id)->value('state') !== TakeState::Failed) {
    usleep(20_000);
}
printf("stopped within %.1f s\n", microtime(true) - $began);

// Ten takes of one migration that never end, and then a small one of another.
$dispatch = function (App\Models\Migration $of, string $file, array $reader): Take {
    $source = $of->sources()->first() ?? $of->sources()->create(['code' => 'S', 'name' => 'S']);
    $take = $source->extracts()->create(['name' => uniqid('x'), 'reader' => $reader])
        ->newTake(['file' => $file, 'file_name' => 'x', 'bytes' => (int) filesize($file)]);
    App\Freezing\FreezeTake::dispatch($take->id);

    return $take;
};
for ($i = 0; $i < 10; $i++) {
    $dispatch($migration, $files['counts for ever'], ['kind' => 'database', 'table' => 'v']);
}
file_put_contents("$folder/small.csv", "no,name\n1,a\n");
$other = App\Models\Migration::query()->create(['name' => 'Other', 'target_name' => 'x', 'installation' => 'other']);
sleep(2);
$began = microtime(true);
$take = $dispatch($other, "$folder/small.csv", ['kind' => 'delimited']);
while (Take::query()->whereKey($take->id)->value('state') !== TakeState::Frozen && microtime(true) - $began < 60) {
    usleep(20_000);
}
printf("a small take of another migration beside ten that never end: %.1f s\n", microtime(true) - $began);
