<?php

// Shared by benchmarks that need the application: starts the script again with a private MariaDB and PHP's compiler, boots the
// application, and leaves $root, $app and $folder for their files.

use Illuminate\Contracts\Console\Kernel;

$root = dirname(__DIR__);
if (getenv('DB_SOCKET') === false) {
    putenv('DB_POOL=1G');
    passthru(
        implode(
            ' ',
            array_map(escapeshellarg(...), [
                "$root/bin/with-database",
                'bench',
                PHP_BINARY,
                ...array_map(fn (string $setting) => "-d$setting", file("$root/bin/jit.ini", FILE_IGNORE_NEW_LINES) ?: []),
                (string) realpath($argv[0]),
                ...array_slice($argv, 1),
            ]),
        ),
        $code,
    );
    exit($code);
}
ini_set('memory_limit', '256M');
require "$root/vendor/autoload.php";
$app = require "$root/bootstrap/app.php";
$app->make(Kernel::class)->bootstrap();
$folder = "$root/var/bench/files";
@mkdir($folder, 0777, true);
