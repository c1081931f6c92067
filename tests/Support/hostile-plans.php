<?php

/*
 * php -d memory_limit=32M tests/Support/hostile-plans.php: reads plans that were made to do harm, one after the other, each for a second at
 * the most, and prints what is said of each. What is written is small; what it would become is not.
 */

use Baggage\Core\Plan\PlanError;
use Baggage\Core\Reading\Limits;
use Tests\Core\WrongPlansTest;

require dirname(__DIR__, 2).'/vendor/autoload.php';

Limits::set(new Limits(plan: 300_000, values: 5_000, aliases: 20));
$good = WrongPlansTest::PLAN;
$in = fn (string $old, string $new): string => str_contains($good, $old) ? str_replace($old, $new, $good) : throw new LogicException($old);
$named = fn (string $text): string => $in('migration: Shop', "migration: $text");
$ruled = fn (string $rule): string => $in('tidy(name)', $rule);
$bomb = function (int $levels, int $each): string {
    $yaml = "a0: &a0 [x]\n";
    for ($i = 1; $i <= $levels; $i++) {
        $yaml .= "a$i: &a$i [".implode(', ', array_fill(0, $each, '*a'.($i - 1)))."]\n";
    }

    return $yaml;
};
$load = fn (int $i) => "  - {name: L$i, entity: customer, from: OLD/customers, key: [NO], fields: {name: name}}\n";
$loads = implode('', array_map($load, range(1, 1500)));

$plans = [
    // Structure.
    'nothing' => '',
    'a blank' => ' ',
    'a NUL byte' => "\0",
    'half a letter' => "baggage: 1\nmigration: \xC3",
    'UTF-16' => mb_convert_encoding($good, 'UTF-16'),
    'a list' => '[]',
    'a text' => 'baggage',
    'a number' => '1',
    'only comments' => str_repeat("# x\n", 1000),
    'two documents' => "$good\n---\n$good",
    'brackets' => str_repeat('[', 5000),
    'braces' => str_repeat('{', 5000),
    'closed brackets' => str_repeat('[', 2000).str_repeat(']', 2000),
    'maps in maps' => 'a: '.str_repeat('{a: ', 800).'1'.str_repeat('}', 800),
    'indents' => implode("\n", array_map(fn ($i) => str_repeat(' ', $i).'a:', range(0, 600))),
    'dashes' => str_repeat('- ', 3000).'x',
    'one long line' => 'a: "'.str_repeat('x', 250_000).'"',
    'one long key' => str_repeat('k', 250_000).': 1',
    'a long plan' => $good.str_repeat("# x\n", 80_000),
    'many keys' => implode("\n", array_map(fn ($i) => "k$i: 1", range(1, 15_000))),
    'quotes' => str_repeat('"\\"', 20_000),
    'an open quote' => $named('"'.str_repeat('a ', 50_000)),
    'escapes' => $named('"'.str_repeat('\\x41\\u0041', 9000).'"'),
    'a folded text' => "migration: >\n".str_repeat("  x\n", 20_000),
    'tabs' => str_repeat("\t", 50_000),
    'line ends' => str_repeat("\r", 50_000),
    'a tag' => $named('!php/object O:1:"A":0:{}'),
    'a constant' => $named('!php/const PHP_VERSION'),
    'an enum' => $named('!php/enum Foo::Bar'),
    'a binary' => $named('!!binary '.str_repeat('A', 50_000)),
    // Aliases.
    'an alias bomb' => $bomb(9, 9),
    'a wide alias bomb' => $bomb(3, 100),
    'a deep alias bomb' => $bomb(60, 2),
    'many aliases' => "a: &a 1\nb: [".implode(', ', array_fill(0, 5000, '*a')).']',
    'an alias of itself' => "a: &a\n  b: *a",
    'an alias of nothing' => 'a: *b',
    'a merge of merges' => "a: &a {x: 1}\nb: &b {<<: *a}\nc: {<<: [*a, *b, *a, *b]}",
    // Values.
    'infinity' => $named('.inf'),
    'less than infinity' => $named('-.INF'),
    'no number' => $named('.nan'),
    'a huge number' => $named(str_repeat('9', 5000)),
    'an octal' => $named('0o17'),
    'a date' => $named('2026-12-31'),
    'yes' => $named('yes'),
    'null' => $named('~'),
    'a list for a name' => $named('[[[[1]]]]'),
    'a long name' => $named(str_repeat('n', 5000)),
    'a version that is infinity' => $in('baggage: 1', 'baggage: .inf'),
    'another version' => $in('baggage: 1', 'baggage: 99'),
    'the same key twice' => "$good\nmigration: Again",
    'directions' => $named("\"a\u{202E}b\""),
    'a path upwards' => $in('file: customers.csv', 'file: ../../../../etc/passwd'),
    'an address' => $in('file: customers.csv', 'file: http://127.0.0.1/x'),
    'a protocol' => $in('file: customers.csv', 'file: php://filter/read=convert.base64-encode/resource=x'),
    'many loads' => $in('loads:', "loads:\n$loads"),
    // Rules.
    'parentheses' => $ruled(str_repeat('(', 3000)),
    'nots' => $ruled(str_repeat('not ', 900).'true'),
    'minuses' => $ruled(str_repeat('-', 3000).'1'),
    'pluses' => $ruled('1'.str_repeat('+1', 1900)),
    'conditions' => $ruled(str_repeat('true?', 700).'1'),
    'a long rule' => $ruled("'".str_repeat('x', 100_000)."'"),
    'an expression of expressions' => $ruled('matches(name, "/(a+)+$/")'),
    'a power' => $ruled('9 ** 999999999'),
    'a range' => $ruled('1..999999999'),
    'a call of PHP' => $ruled("system('id')"),
    'a constant of PHP' => $ruled("constant('PHP_VERSION')"),
];

pcntl_async_signals(true);
pcntl_signal(SIGALRM, function () use (&$name) {
    fwrite(STDERR, "$name took longer than a second\n");
    exit(3);
});
foreach ($plans as $name => $yaml) {
    pcntl_alarm(1);
    $mistakes = WrongPlansTest::mistakes($yaml);
    $said = $mistakes === [] ? 'read' : PlanError::of($mistakes)->getMessage();
    pcntl_alarm(0);
    $line = [$name, strlen($yaml), mb_strlen($said), mb_substr($said, 0, 300)];
    echo json_encode($line, JSON_THROW_ON_ERROR | JSON_INVALID_UTF8_SUBSTITUTE), "\n";
}
