<?php

namespace Baggage\Core\Plan;

use Baggage\Core\Feeds\Formats;
use Baggage\Core\Reconciling\ControlTotal;

/**
 * A plan in its smallest parts that somebody can change by themselves: a field rule, a code entry, a column decision, a parameter, a
 * connection, or one setting of a source, extract, crosswalk or load. Each has a path of names, so that it is the same item wherever it
 * stands in a file, and one form whatever way it was written.
 */
final readonly class Items
{
    /** Between the names of a path: no name holds it. */
    private const SIGN = "\0";

    private const KINDS = [
        'connections' => 'connection',
        'sources' => 'source',
        'extracts' => 'extract',
        'left_behind' => 'left behind',
        'findings' => 'finding',
        'references' => 'reference',
        'code_crosswalks' => 'code crosswalk',
        'entries' => 'code',
        'parameters' => 'parameter',
        'match_rules' => 'match rule of',
        'proofs' => 'control total',
        'loads' => 'load',
        'fields' => 'field',
    ];

    /** @param  array<string, mixed>  $all  path of names → value, in the order of the plan */
    private function __construct(public array $all)
    {
    }

    /** @param  array<string, mixed>|null  $plan  as plan.schema.json describes it; null for none */
    public static function of(?array $plan): self
    {
        if ($plan === null) {
            return new self([]);
        }
        $items = [
            ...self::target($plan['target']),
            ...array_merge([], ...array_map(self::source(...), $plan['sources'])),
            ...array_merge([], ...array_map(self::crosswalk(...), $plan['code_crosswalks'] ?? [])),
        ];
        foreach ($plan['parameters'] ?? [] as $name => $parameter) {
            $items[self::path('parameters', $name)] = self::filled((array) $parameter);
        }
        foreach ($plan['match_rules'] ?? [] as $rule) {
            $items[self::path('match_rules', $rule['entity'], $rule['name'])] = (array) $rule['on'];
        }
        foreach ($plan['loads'] ?? [] as $load) {
            $match = (array) ($load['match'] ?? []);
            if ($match !== [] && ! array_is_list($match)) {
                $name = self::ruleOf($items, $load['entity'], $match);
                $items[self::path('match_rules', $load['entity'], $name)] = $match;
                $load['match'] = [$name];
            }
            $items += self::load($load);
        }

        foreach ($plan['proofs'] ?? [] as $proof) {
            $total = ControlTotal::fromPlan((array) $proof);
            $items[self::path('proofs', $total->name)] = array_diff_key($total->toPlan(), ['name' => 0]);
        }

        return new self($items);
    }

    /**
     * The name of the rule a load states by its fields: of one that compares so, or one made of them.
     *
     * @param  array<string, mixed>  $items
     * @param  array<string, string>  $on
     */
    private static function ruleOf(array $items, string $entity, array $on): string
    {
        $first = mb_substr(implode(' + ', array_keys($on)), 0, 90);
        $name = $first;
        for ($n = 2; isset($items[self::path('match_rules', $entity, $name)]); $n++) {
            if ($items[self::path('match_rules', $entity, $name)] === $on) {
                return $name;
            }
            $name = "$first $n";
        }
        foreach ($items as $path => $value) {
            $names = self::names($path);
            if ($names[0] === 'match_rules' && $names[1] === $entity && $value === $on) {
                return $names[2];
            }
        }

        return $name;
    }

    /** @param  array<string, mixed>  $all  as of() makes them */
    public static function from(array $all): self
    {
        return new self($all);
    }

    public static function path(string|int ...$names): string
    {
        return implode(self::SIGN, $names);
    }

    /** @return list<string> names of a path */
    public static function names(string $path): array
    {
        return explode(self::SIGN, $path);
    }

    /** A path for people: load Customers, field name. */
    public static function shown(string $path): string
    {
        return implode(', ', self::words($path));
    }

    /** @return non-empty-list<string> the parts of a path for people: "load Customers", "field name" */
    public static function words(string $path): array
    {
        $names = self::names($path);
        $words = [];
        for ($i = 0; $i < count($names); $i++) {
            $kind = self::KINDS[$names[$i]] ?? null;
            if ($kind !== null && isset($names[$i + 1]) && $i % 2 === ($names[0] === 'target' ? 1 : 0)) {
                $words[] = "$kind {$names[++$i]}";
            } elseif ($names[$i] !== 'is there') {
                $words[] = $names[$i];
            }
        }

        return $words === [] ? [$path] : $words;
    }

    /**
     * @param  array<string, mixed>  $target
     * @return array<string, mixed>
     */
    private static function target(array $target): array
    {
        $items = self::settings(['target'], $target, ['application', 'description']);
        foreach ($target['connections'] as $c) {
            $items[self::path('target', 'connections', $c['name'])] = self::connection($c, '3306');
        }

        return $items;
    }

    /**
     * @param  array<string, mixed>  $connection
     * @return array<string, mixed>
     */
    private static function connection(array $connection, ?string $port): array
    {
        $connection['port'] = isset($connection['port']) ? (string) $connection['port'] : $port;
        ksort($connection);

        return self::filled(array_diff_key($connection, ['name' => 0]));
    }

    /**
     * @param  list<string>  $path
     * @param  array<string, mixed>  $of
     * @param  list<string>  $names
     * @return array<string, mixed>
     */
    private static function settings(array $path, array $of, array $names): array
    {
        $items = [];
        foreach ($names as $name) {
            if (isset($of[$name]) && ! in_array($of[$name], ['', [], false], true)) {
                $items[self::path(...[...$path, $name])] = $of[$name];
            }
        }

        return $items;
    }

    /**
     * @param  array<string, mixed>  $source
     * @return array<string, mixed>
     */
    private static function source(array $source): array
    {
        $path = ['sources', $source['code']];
        $items = self::settings($path, $source, ['name', 'notes']);
        foreach ($source['connections'] ?? [] as $c) {
            $items[self::path(...[...$path, 'connections', $c['name']])] = self::connection($c, null);
        }
        foreach ($source['extracts'] ?? [] as $extract) {
            $items += self::extract([...$path, 'extracts', $extract['name']], $extract);
        }
        foreach ($source['references'] ?? [] as $r) {
            $name = json_encode([$r['from'], $r['columns'], $r['to'], $r['key']], JSON_UNESCAPED_UNICODE | JSON_UNESCAPED_SLASHES);
            $items[self::path(...[...$path, 'references', (string) $name])] = $r['is'] ?? 'accepted';
        }

        return $items;
    }

    /**
     * @param  list<string>  $path
     * @param  array<string, mixed>  $extract
     * @return array<string, mixed>
     */
    private static function extract(array $path, array $extract): array
    {
        $items = [self::path(...[...$path, 'is there']) => true]
            + self::settings($path, $extract, ['file', 'row_key', 'covering', 'allow_empty', 'not_loaded']);
        try {
            $reader = Formats::settings((array) ($extract['reader'] ?? []))->toArray();
        } catch (\RuntimeException|\InvalidArgumentException) {
            $reader = (array) $extract['reader'];
        }
        if ($reader !== []) {
            $items[self::path(...[...$path, 'reader'])] = $reader;
        }
        foreach ((array) ($extract['left_behind'] ?? []) as $header => $reason) {
            $items[self::path(...[...$path, 'left_behind', $header])] = $reason;
        }
        foreach ($extract['findings'] ?? [] as $f) {
            $name = $f['finding'].(isset($f['column']) ? self::SIGN.$f['column'] : '');
            $items[self::path(...[...$path, 'findings', $name])] = self::filled(['is' => $f['is'], 'note' => $f['note'] ?? null]);
        }

        return $items;
    }

    /**
     * @param  array<string, mixed>  $crosswalk
     * @return array<string, mixed>
     */
    private static function crosswalk(array $crosswalk): array
    {
        $path = ['code_crosswalks', $crosswalk['name']];
        $items = [self::path(...[...$path, 'is there']) => true] + self::settings($path, $crosswalk, ['note']);
        if (($crosswalk['otherwise'] ?? 'reject') !== 'reject') {
            $items[self::path(...[...$path, 'otherwise'])] = self::filled([
                'is' => $crosswalk['otherwise'],
                'value' => $crosswalk['otherwise'] === 'value' ? $crosswalk['otherwise_value'] ?? null : null,
            ]);
        }
        $notes = (array) ($crosswalk['notes'] ?? []);
        foreach ((array) ($crosswalk['entries'] ?? []) as $old => $new) {
            $items[self::path(...[...$path, 'entries', trim((string) $old)])] = ['to' => $new === null ? null : (string) $new]
                + self::filled(['note' => $notes[$old] ?? null]);
        }
        foreach ($crosswalk['rejected'] ?? [] as $old) {
            $items[self::path(...[...$path, 'entries', trim($old)])] = ['rejected' => true]
                + self::filled(['note' => $notes[$old] ?? null]);
        }

        return $items;
    }

    /**
     * @param  array<string, mixed>  $load
     * @return array<string, mixed>
     */
    private static function load(array $load): array
    {
        $path = ['loads', $load['name']];
        $defaults = ['policy' => 'create', 'key_compared' => 'trim', 'gone' => 'review', 'others' => 'overwrite'];
        $items = [self::path(...[...$path, 'is there']) => true] + self::settings(
            $path,
            array_filter($load, fn ($v, $k) => ($defaults[$k] ?? null) !== $v, ARRAY_FILTER_USE_BOTH),
            ['entity', 'from', 'key', 'key_space', 'key_compared', 'policy', 'gone', 'others', 'match', 'note'],
        );
        if (isset($load['scope'])) {
            $items[self::path(...[...$path, 'scope'])] = self::filled(['is' => $load['scope'], 'reason' => $load['scope_reason'] ?? null]);
        }
        foreach ((array) ($load['fields'] ?? []) as $field => $rule) {
            $items[self::path(...[...$path, 'fields', $field])] = self::filled(is_string($rule) ? ['rule' => $rule] : (array) $rule);
        }

        return $items;
    }

    /**
     * @param  array<string, mixed>  $a
     * @return array<string, mixed>
     */
    private static function filled(array $a): array
    {
        return array_filter($a, fn ($v) => $v !== null && $v !== '');
    }

    /**
     * The plan that holds these items, in their order.
     *
     * @return array<string, mixed> as plan.schema.json describes it
     */
    public function plan(string $migration): array
    {
        $of = [];
        foreach ($this->all as $path => $value) {
            $at = &$of;
            $names = self::names($path);
            // Of a finding without a column the last name is missing, of one with it there is one more.
            $depth = ($names[2] ?? null) === 'extracts' && ($names[4] ?? null) === 'findings' ? 6 : count($names);
            foreach (array_slice($names, 0, $depth - 1) as $name) {
                $at = &$at[$name];
            }
            $at[implode(self::SIGN, array_slice($names, $depth - 1))] = $value;
            unset($at);
        }

        return [
            'baggage' => 1,
            'migration' => $migration,
            'target' => ['connections' => self::named($of['target']['connections'] ?? [])] + ($of['target'] ?? []),
            'sources' => self::listed($of['sources'] ?? [], self::sourceAgain(...)),
            'code_crosswalks' => self::listed($of['code_crosswalks'] ?? [], self::crosswalkAgain(...)),
            'parameters' => $of['parameters'] ?? [],
            'match_rules' => array_merge([], ...array_map(
                fn ($entity, $rules) => self::listed(
                    $rules,
                    fn ($name, $on) => ['entity' => (string) $entity, 'name' => $name, 'on' => $on],
                ),
                array_keys($of['match_rules'] ?? []),
                array_values($of['match_rules'] ?? []),
            )),
            'loads' => self::listed($of['loads'] ?? [], self::loadAgain(...)),
            'proofs' => self::named($of['proofs'] ?? []),
        ];
    }

    /**
     * @param  array<array-key, mixed>  $byName
     * @param  \Closure(string, array<string, mixed>): array<string, mixed>  $make
     * @return list<array<string, mixed>>
     */
    private static function listed(array $byName, \Closure $make): array
    {
        return array_map(fn ($name, $one) => $make((string) $name, $one), array_keys($byName), array_values($byName));
    }

    /**
     * @param  array<array-key, array<string, mixed>>  $byName
     * @return list<array<string, mixed>>
     */
    private static function named(array $byName): array
    {
        return self::listed($byName, fn (string $name, array $one) => ['name' => $name] + $one);
    }

    /**
     * @param  array<string, mixed>  $source
     * @return array<string, mixed>
     */
    private static function sourceAgain(string $code, array $source): array
    {
        $references = [];
        foreach ($source['references'] ?? [] as $name => $is) {
            [$from, $columns, $to, $key] = json_decode((string) $name, true);
            $references[] = ['from' => $from, 'columns' => $columns, 'to' => $to, 'key' => $key, 'is' => $is];
        }

        return ['code' => $code, 'name' => $source['name'] ?? $code] + array_filter([
            'notes' => $source['notes'] ?? null,
            'connections' => self::named($source['connections'] ?? []),
            'references' => $references,
            'extracts' => self::listed($source['extracts'] ?? [], self::extractAgain(...)),
        ]);
    }

    /**
     * @param  array<string, mixed>  $extract
     * @return array<string, mixed>
     */
    private static function extractAgain(string $name, array $extract): array
    {
        $findings = [];
        foreach ($extract['findings'] ?? [] as $of => $decision) {
            [$finding, $column] = [...explode(self::SIGN, (string) $of, 2), null];
            $findings[] = self::filled(['finding' => $finding, 'column' => $column]) + $decision;
        }

        return ['name' => $name] + array_filter(['findings' => $findings]) + array_diff_key($extract, ['is there' => 0, 'findings' => 0]);
    }

    /**
     * @param  array<string, mixed>  $crosswalk
     * @return array<string, mixed>
     */
    private static function crosswalkAgain(string $name, array $crosswalk): array
    {
        $entries = $rejected = $notes = [];
        foreach ($crosswalk['entries'] ?? [] as $old => $entry) {
            if (isset($entry['rejected'])) {
                $rejected[] = (string) $old;
            } else {
                $entries[$old] = $entry['to'];
            }
            if (isset($entry['note'])) {
                $notes[$old] = $entry['note'];
            }
        }

        return ['name' => $name, 'entries' => $entries] + array_filter([
            'rejected' => $rejected,
            'otherwise' => $crosswalk['otherwise']['is'] ?? null,
            'otherwise_value' => $crosswalk['otherwise']['value'] ?? null,
            'note' => $crosswalk['note'] ?? null,
            'notes' => $notes,
        ], fn ($v) => $v !== null && $v !== []);
    }

    /**
     * @param  array<string, mixed>  $load
     * @return array<string, mixed>
     */
    private static function loadAgain(string $name, array $load): array
    {
        $scope = $load['scope'] ?? null;
        $load['fields'] = array_map(fn (array $f) => array_keys($f) === ['rule'] ? $f['rule'] : $f, $load['fields'] ?? []);

        return ['name' => $name] + array_diff_key($load, ['is there' => 0, 'scope' => 0])
            + ($scope === null ? [] : self::filled(['scope' => $scope['is'], 'scope_reason' => $scope['reason'] ?? null]));
    }
}
