<?php

/*
 * php tests/Support/mutate.php KIND FROM N: opens N changed files of a kind, one after the other, in this one process, and says of the
 * last how far it came. Whoever starts it gives it little memory and time. Without KIND it goes through all of them.
 */

use App\Freezing\Look;
use App\Looking\Looks;
use App\Reading\Part;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Plan\PlanError;
use Baggage\Core\Plan\PlanReader;
use Baggage\Core\Reading\Columns;
use Illuminate\Contracts\Console\Kernel;
use Tests\Support\Mutants;

require dirname(__DIR__, 2).'/vendor/autoload.php';
function fileOf(string $path, string $kind): string
{
    $parts = Looks::done(Look::class, ['what' => 'parts', 'path' => $path, 'name' => "x.$kind"]);
    $seen = [];
    foreach (array_slice($parts['is'] ?? [], 0, 3) as $is) {
        $part = Part::fromArray($is);
        $seen[] = $part->settings === null
            ? ['refused' => $part->refused]
            : Looks::done(Look::class, ['what' => 'rows', 'path' => $path, 'settings' => $part->settings->toArray(), 'count' => 200]);
    }
    json_encode([$parts, $seen], JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE);

    return array_filter($seen, fn (array $of) => isset($of['is']) && $of['is']['error'] === null) === [] ? 'refused' : 'read';
}

function planOf(string $yaml): string
{
    try {
        app(PlanReader::class)->read($yaml, 'plan.yaml');

        return 'read';
    } catch (PlanError) {
        return 'refused';
    }
}

function ruleOf(string $text): string
{
    try {
        (new Compiler(Columns::fromHeaders(['no', 'name', 'born', 'amount'])))->compile($text);

        return 'read';
    } catch (ExpressionError) {
        return 'refused';
    }
}

$app = require dirname(__DIR__, 2).'/bootstrap/app.php';
$app->make(Kernel::class)->bootstrap();
[, $kind, $from, $n] = $argv + [1 => 'csv', 2 => '1', 3 => '40'];
$good = Mutants::good($kind);
$path = tempnam(sys_get_temp_dir(), 'mutant');
$told = ['refused' => 0, 'read' => 0];
for ($seed = (int) $from; $seed < (int) $from + (int) $n; $seed++) {
    fwrite(STDERR, "$seed ");
    file_put_contents($path, Mutants::of($good, $seed));
    $began = hrtime(true);
    try {
        $told[match ($kind) {
            'plan' => planOf((string) file_get_contents($path)),
            'rule' => ruleOf((string) file_get_contents($path)),
            default => fileOf($path, $kind),
        }]++;
    } catch (Throwable $e) {
        echo "$kind $seed: ".$e::class.": {$e->getMessage()} ({$e->getFile()}:{$e->getLine()})\n";
    }
    $took = (hrtime(true) - $began) / 1e9;
    if ($took > 2) {
        echo "$kind $seed: took ".round($took, 1)." s\n";
    }
}
unlink($path);
echo "done $kind: ".json_encode($told)."\n";
