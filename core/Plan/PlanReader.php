<?php

namespace Baggage\Core\Plan;

use JsonSchema\Validator;
use Symfony\Component\Yaml\Exception\ParseException;
use Symfony\Component\Yaml\Yaml;

/** Reads a plan file: YAML checked against plan.schema.json, and then against itself. */
final class PlanReader
{
    public const SCHEMA = __DIR__.'/plan.schema.json';

    /** What the schema's patterns ask for, in words. */
    private const PATTERNS = [
        '^[A-Za-z0-9_-]{1,12}$' => '1 to 12 letters, digits, hyphens or underscores',
        '^[A-Z_][A-Z0-9_]*$' => 'the name of an environment variable: capitals, digits and underscores',
        '^[^/]+/[^/]+$' => 'a source and its extract, as BB/craft',
        '^[^/]{1,100}$' => '1 to 100 characters, no slash',
    ];

    /**
     * @return array<string, mixed> as the schema describes it
     *
     * @throws PlanError
     */
    public function read(string $yaml, string $file): array
    {
        try {
            $plan = Yaml::parse($yaml, Yaml::PARSE_EXCEPTION_ON_INVALID_TYPE);
        } catch (ParseException $e) {
            // The parser quotes the line; a file that is no plan may be anything.
            throw PlanError::notYaml($file, $e->getParsedLine() > 0 ? $e->getParsedLine() : null);
        }
        if (! is_array($plan)) {
            throw PlanError::noPlan($file);
        }
        $lines = new LineFinder($yaml);
        $this->againstSchema($plan, $file, $lines);
        $this->againstItself($plan, $file, $lines);

        return $plan;
    }

    /** @param  array<string, mixed>  $plan */
    private function againstSchema(array $plan, string $file, LineFinder $lines): void
    {
        $data = json_decode(json_encode($plan, JSON_THROW_ON_ERROR));
        // An empty mapping is an empty list to PHP; the schema means objects.
        $validator = new Validator;
        $validator->validate($data, json_decode((string) file_get_contents(self::SCHEMA)));
        if ($validator->isValid()) {
            return;
        }
        $worst = null;
        $deepest = -1;
        foreach ($validator->getErrors() as $error) {
            // The deepest path is the most specific of what the alternatives of a field said.
            $depth = 2 * substr_count($error['pointer'], '/') + (str_contains($error['message'], 'is not defined') ? 3 : 0);
            if ($depth > $deepest) {
                $worst = $error;
                $deepest = $depth;
            }
        }
        $path = array_map(
            fn ($p) => ctype_digit($p) ? (int) $p : str_replace(['~1', '~0', '%20'], ['/', '~', ' '], $p),
            array_values(array_filter(explode('/', $worst['pointer'] ?? ''), fn ($p) => $p !== '')),
        );
        $message = $worst['message'] ?? 'not valid';
        if (preg_match('/property (\S+) is not defined and the definition does not allow/', $message, $m) === 1) {
            $path[] = $m[1];
            $message = "unknown field \"$m[1]\"";
        }
        if (preg_match('/^Does not match the regex pattern (.+)$/s', $message, $m) === 1) {
            $message = 'must be '.(self::PATTERNS[$m[1]] ?? "text like $m[1]");
        }
        throw PlanError::atLine($file, $lines->find($path), implode('.', $path), $message);
    }

    /** @param  array<string, mixed>  $plan */
    private function againstItself(array $plan, string $file, LineFinder $lines): void
    {
        $wrong = fn (string $message, string|int ...$at): PlanError => PlanError::atLine(
            $file,
            $lines->find(array_values($at)),
            implode('.', $at),
            $message,
        );
        $extracts = $names = [];
        foreach ($plan['sources'] as $i => $source) {
            foreach ($source['extracts'] ?? [] as $j => $extract) {
                $name = "$source[code]/$extract[name]";
                if (isset($extracts[$name])) {
                    throw $wrong("there are two extracts $name", 'sources', $i, 'extracts', $j, 'name');
                }
                $extracts[$name] = true;
            }
        }
        foreach ($plan['loads'] ?? [] as $i => $load) {
            if (isset($names[$load['name']])) {
                throw $wrong("there are two loads named \"$load[name]\"", 'loads', $i, 'name');
            }
            $names[$load['name']] = true;
            if (! isset($extracts[$load['from']])) {
                $there = implode(', ', array_keys($extracts));
                throw $wrong("no source has the extract \"$load[from]\"; there are $there", 'loads', $i, 'from');
            }
            if (isset($load['scope']) && ! isset($load['scope_reason'])) {
                throw $wrong('a scope needs a scope_reason: why are the other rows left out?', 'loads', $i, 'scope');
            }
        }
        $this->oneWayToCompare($plan['loads'] ?? [], $lines, $wrong);
    }

    /**
     * Loads of one entity that name one key space share their legacy keys, so they compare them alike.
     *
     * @param  list<array<string, mixed>>  $loads
     * @param  \Closure(string, string|int...): PlanError  $wrong
     */
    private function oneWayToCompare(array $loads, LineFinder $lines, \Closure $wrong): void
    {
        $stated = [];
        foreach ($loads as $i => $load) {
            $space = "$load[entity] in ".($load['key_space'] ?? explode('/', $load['from'], 2)[0]);
            $how = $load['key_compared'] ?? 'trim';
            [$before, $at] = $stated[$space] ??= [$how, $i];
            if ($how !== $before) {
                $other = $lines->find(['loads', $at, 'key_compared']) ?? $lines->find(['loads', $at, 'name']);
                throw $wrong(
                    "keys of $space are compared by \"$how\" here and by \"$before\" in line $other, load \"{$loads[$at]['name']}\"; "
                        .'a key would be found by one and not by the other',
                    'loads',
                    $i,
                    isset($load['key_compared']) ? 'key_compared' : 'name',
                );
            }
        }
    }
}
