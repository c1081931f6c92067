<?php

// php bench/map.php [--scale=1]: a load of 20 fields with 30 function calls over 200,000 rows, mapped and checked by rules, against the
// same rules written by hand as one PHP closure that calls the same functions and checks the same types. Prints rows a second and the
// ratio, best of three each, in turn.

use Baggage\Core\Crosswalks\CodeCrosswalk;
use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Expressions\Context;
use Baggage\Core\Expressions\Functions\Conditions;
use Baggage\Core\Expressions\Functions\Dates;
use Baggage\Core\Expressions\Functions\Identifiers;
use Baggage\Core\Expressions\Functions\Keys;
use Baggage\Core\Expressions\Functions\Names;
use Baggage\Core\Expressions\Functions\Numbers;
use Baggage\Core\Expressions\Functions\Text;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Mapping\Mapper;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;

if (! in_array('tracing', $argv, true)) {
    passthru(
        implode(
            ' ',
            array_map(escapeshellarg(...), [
                PHP_BINARY,
                ...array_map(fn (string $setting) => "-d$setting", file(dirname(__DIR__).'/bin/jit.ini', FILE_IGNORE_NEW_LINES) ?: []),
                __FILE__,
                ...array_slice($argv, 1),
                'tracing',
            ]),
        ),
        $code,
    );
    exit($code);
}
require dirname(__DIR__).'/vendor/autoload.php';
$scale = (float) (getopt('', ['scale:'])['scale'] ?? 1);
$n = max(1000, (int) (200_000 * $scale));

$columns = Columns::fromHeaders([
    'NO',
    'NAME',
    'KIND',
    'EMAIL',
    'TEL',
    'STREET',
    'POST',
    'TOWN',
    'CTRY',
    'BORN',
    'SINCE',
    'LIMIT',
    'DEBT',
    'LOA',
    'METER',
    'BILL',
    'BERTH',
    'NOTE',
    'REG',
    'OLD',
]);
$rules = [
    'number' => ['upper(trim(no))', ['kind' => 'text', 'length' => 12]],
    'name' => ['person(mend(name))', ['kind' => 'text', 'length' => 60]],
    'kind' => [
        "pick(kind, 'O', 'organisation', 'P', 'person')",
        ['kind' => 'choice', 'values' => ['organisation', 'person']],
    ],
    'email' => ['email(email)', ['kind' => 'text', 'length' => 120]],
    'street' => ['tidy(squeeze(street))', ['kind' => 'text', 'length' => 80]],
    'postcode' => ['upper(squeeze(post))', ['kind' => 'text', 'length' => 12]],
    'town' => ['tidy(town)', ['kind' => 'text', 'length' => 40]],
    'country' => ["code('countries', ctry)", ['kind' => 'text', 'length' => 2]],
    'born' => ["date(nothing_if(born, '00/00/00'), 'd/m/Y')", ['kind' => 'date']],
    'since' => ["date(since, 'dmy')", ['kind' => 'date']],
    'credit' => ["decimal(limit, '.')", ['kind' => 'decimal', 'precision' => 10, 'scale' => 2]],
    'debt' => ["round(decimal(debt, ','), 2)", ['kind' => 'decimal', 'precision' => 10, 'scale' => 2]],
    'length' => ['round(feet(loa), 2)', ['kind' => 'decimal', 'precision' => 5, 'scale' => 2]],
    'metered' => ['yes_no(meter)', ['kind' => 'boolean']],
    'payer' => ['parent(bill)', ['kind' => 'integer'], 'party'],
    'berth' => ["part(berth, '/', 2)", ['kind' => 'text', 'length' => 12]],
    'note' => ['shorten(squeeze(note), 60)', ['kind' => 'text', 'length' => 80]],
    'registration' => ["replace(upper(reg), ' ', '-')", ['kind' => 'text', 'length' => 12]],
    'old' => ['pad(digits(old), 8)', ['kind' => 'text', 'length' => 8]],
    'label' => ["left(upper(town), 3) ~ '-' ~ no", ['kind' => 'text', 'length' => 20]],
];
$fields = [];
foreach ($rules as $name => $r) {
    $fields[] = Field::fromArray(['name' => $name, 'refers' => $r[2] ?? null] + $r[1]);
}
$entity = new Entity('party', 'id', $fields);
$codes = ['countries' => new CodeCrosswalk('countries', ['UK' => 'GB', 'N' => 'NO', 'DK' => 'DK'])];
$context = new Context($codes, 'BB');
$mapper = Mapper::of(
    new LoadDefinition(1, 'L', $entity, 'BB', 'BB', ['no'], KeyNormalisation::Trim, array_map(fn ($r) => $r[0], $rules)),
    $columns,
    $context,
);
$row = fn (int $i): array => [
    " p$i",
    $i % 5 ? "HOLM, ANNE $i" : 'BjÃ¸rn  Kjær',
    $i % 4 ? 'P' : 'O',
    $i % 3 ? "P$i@post.example" : '',
    '0151 496 0018',
    ' '.$i % 90 .'  slip road ',
    'os1  0001',
    'PORT HOLM',
    ['UK', 'N', 'DK'][$i % 3],
    sprintf('%02d/%02d/%d', ($i % 28) + 1, ($i % 12) + 1, 1940 + ($i % 60)),
    sprintf('%02d%02d%02d', ($i % 28) + 1, ($i % 12) + 1, ($i % 90) + 5),
    number_format(($i % 90000) / 100, 2),
    number_format(($i % 90000) / 100, 2, ',', '.'),
    $i % 4 ? (string) (($i % 80) + 10) : ($i % 80) + 10 ."' 6\"",
    $i % 2 ? 'Y' : 'N',
    $i % 7 ? '' : sprintf('%05d', $i),
    'INV/'.sprintf('%03d', $i % 400),
    'seen at the quay  in spring, '.$i,
    "ss $i",
    "No. $i",
];
$rows = [];
for ($i = 0; $i < 5_000; $i++) {
    $rows[] = $row($i);
}
$types = array_column($fields, 'type', 'name');
// What a programmer would write for this one load.
$byHand = function (array $c) use ($context, $types): ?array {
    $key = trim((string) $c[0]);
    if ($key === '' || count($c) !== 20) {
        return null;
    }
    $made = [
        'number' => Text::upper(Text::trim($c[0])),
        'name' => Names::person(Text::mend($c[1])),
        'kind' => Conditions::pick($c[2], 'O', 'organisation', 'P', 'person'),
        'email' => Identifiers::email($c[3]),
        'street' => Text::tidy(Text::squeeze($c[5])),
        'postcode' => Text::upper(Text::squeeze($c[6])),
        'town' => Text::tidy($c[7]),
        'country' => Keys::code($context, 'countries', $c[8]),
        'born' => Dates::date(Keys::nothingIf($c[9], '00/00/00'), 'd/m/Y'),
        'since' => Dates::date($c[10], 'dmy'),
        'credit' => Numbers::decimal($c[11], '.'),
        'debt' => Numbers::round(Numbers::decimal($c[12], ','), 2),
        'length' => Numbers::round(Numbers::feet($c[13]), 2),
        'metered' => Conditions::yesNo($c[14]),
        'payer' => Keys::parent($context, $c[15]),
        'berth' => Text::part($c[16], '/', 2),
        'note' => Text::shorten(Text::squeeze($c[17]), 60),
        'registration' => Text::replace((string) Text::upper($c[18]), ' ', '-'),
        'old' => Text::pad(Text::digits($c[19]), 8),
        'label' => Text::left(Text::upper($c[7]), 3).'-'.$c[0],
    ];
    $record = [];
    foreach ($made as $field => $value) {
        if ($value instanceof ParentKey || $value === null || $value === '') {
            $record[$field] = null;

            continue;
        }
        $accepted = $types[$field]->accept($value);
        if (! is_string($accepted)) {
            return null;
        }
        $record[$field] = $accepted;
    }

    return $record;
};
$time = function (Closure $one) use ($rows, $n): float {
    $start = hrtime(true);
    for ($i = 0; $i < $n; $i++) {
        $one($i, $rows[$i % 5_000]);
    }

    return (hrtime(true) - $start) / 1e9;
};
$journey = $mapper->map(1, $rows[7]);
$expected = $byHand($rows[7]);
if ($journey->values !== $expected) {
    fwrite(
        STDERR,
        "The two do not make the same record:\n"
            .json_encode(
                [array_diff_assoc($journey->values, (array) $expected), $expected, $journey->cause],
                JSON_PRETTY_PRINT,
            )
            ."\n",
    );
    exit(1);
}
$hand = $rule = INF;
for ($round = 0; $round < 3; $round++) {
    $hand = min($hand, $time(fn ($i, $cells) => $byHand($cells)));
    $rule = min($rule, $time(fn ($i, $cells) => $mapper->map($i, $cells)));
}
printf("by hand   %6.2f s, %s rows/s\n", $hand, number_format($n / $hand));
printf(
    "by rules  %6.2f s, %s rows/s, ratio %.2f, peak %.0f MB\n",
    $rule,
    number_format($n / $rule),
    $rule / $hand,
    memory_get_peak_usage(true) / 1e6,
);
