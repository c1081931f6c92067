<?php

namespace Baggage\Core\Plan;

use Baggage\Core\Feeds\Formats;
use Baggage\Core\Reading\ReadingError;
use Baggage\Core\Reconciling\ControlTotal;

/** Whether the parts of a plan fit each other, as far as the plan alone tells. */
final class Consistency
{
    private const PARAMETER = 60;

    /** Characters of a header. */
    private const HEADER = 200;

    /** @var list<Mistake> */
    private array $mistakes = [];

    /** @var array<string, true> SOURCE/extract */
    private array $extracts = [];

    private function __construct(private readonly PlanFile $file)
    {
    }

    /** @return list<Mistake> */
    public static function mistakes(PlanFile $file): array
    {
        $check = new self($file);
        $check->names();
        $check->sources($file->plan['sources']);
        foreach ($file->plan['code_crosswalks'] ?? [] as $i => $crosswalk) {
            $check->crosswalk($crosswalk, $i);
        }
        foreach ($file->plan['loads'] ?? [] as $i => $load) {
            $check->load($load, $i);
        }
        $check->oneWayToCompare($file->plan['loads'] ?? []);
        foreach ($file->plan['proofs'] ?? [] as $i => $proof) {
            $check->proof($proof, $i, array_column($file->plan['loads'] ?? [], 'entity', 'name'));
        }

        return $check->mistakes;
    }

    private function wrong(string $message, string|int ...$at): void
    {
        $this->mistakes[] = $this->file->mistake(array_values($at), $message);
    }

    private function names(): void
    {
        $plan = $this->file->plan;
        $this->unique($plan['target']['connections'], 'connections', 'name', 'target', 'connections');
        $this->unique($plan['sources'], 'sources', 'code', 'sources');
        $this->unique($plan['code_crosswalks'] ?? [], 'code crosswalks', 'name', 'code_crosswalks');
        $this->unique($plan['loads'] ?? [], 'loads', 'name', 'loads');
        $this->unique($plan['proofs'] ?? [], 'control totals', 'name', 'proofs');
        foreach (array_keys($plan['parameters'] ?? []) as $name) {
            if (trim((string) $name) === '' || mb_strlen((string) $name) > self::PARAMETER) {
                $this->wrong('a parameter has a name of 1 to '.self::PARAMETER.' characters', 'parameters', $name);
            }
        }
        $byEntity = [];
        foreach ($plan['match_rules'] ?? [] as $i => $rule) {
            if (isset($byEntity[$rule['entity']][self::folded($rule['name'])])) {
                $this->wrong("$rule[entity] has two match rules named \"$rule[name]\"", 'match_rules', $i, 'name');
            }
            $byEntity[$rule['entity']][self::folded($rule['name'])] = true;
        }
    }

    /** @param  array<int, array<string, mixed>>  $list */
    private function unique(array $list, string $what, string $by, string|int ...$path): void
    {
        $seen = [];
        foreach ($list as $i => $one) {
            if (isset($seen[self::folded($one[$by])])) {
                $this->wrong("there are two $what named \"$one[$by]\"", ...[...$path, $i, $by]);
            }
            $seen[self::folded($one[$by])] = true;
        }
    }

    /** Names that differ in capitals or accents alone are one name to the database (Unicode Collation Algorithm, primary strength). */
    private static function folded(string $name): string
    {
        static $collator = null;
        if ($collator === null) {
            $collator = new \Collator('root');
            $collator->setStrength(\Collator::PRIMARY);
        }

        return bin2hex((string) $collator->getSortKey(trim($name)));
    }

    /** @param  list<array<string, mixed>>  $sources */
    private function sources(array $sources): void
    {
        foreach ($sources as $i => $source) {
            $this->unique($source['extracts'] ?? [], "extracts of $source[code]", 'name', 'sources', $i, 'extracts');
            $this->unique($source['connections'] ?? [], "connections of $source[code]", 'name', 'sources', $i, 'connections');
            foreach ($source['extracts'] ?? [] as $extract) {
                $this->extracts["$source[code]/$extract[name]"] = true;
            }
        }
        foreach ($sources as $i => $source) {
            foreach ($source['references'] ?? [] as $j => $reference) {
                $this->known("$source[code]/$reference[from]", 'sources', $i, 'references', $j, 'from');
                $this->known($reference['to'], 'sources', $i, 'references', $j, 'to');
                if (count($reference['columns']) !== count($reference['key'])) {
                    $this->wrong('columns and key are as many of the one as of the other', 'sources', $i, 'references', $j, 'key');
                }
            }
            foreach ($source['extracts'] ?? [] as $j => $extract) {
                $this->extract($source, $extract, $i, $j);
            }
        }
    }

    /**
     * @param  array<string, mixed>  $source
     * @param  array<string, mixed>  $extract
     */
    private function extract(array $source, array $extract, int $i, int $j): void
    {
        $at = ['sources', $i, 'extracts', $j];
        try {
            Formats::settings($extract['reader'] ?? []);
        } catch (\InvalidArgumentException|ReadingError $e) {
            $this->wrong($e->getMessage(), ...[...$at, 'reader']);
        }
        $through = $extract['reader']['connection'] ?? null;
        if ($through !== null && ! in_array($through, array_column($source['connections'] ?? [], 'name'), true)) {
            $this->wrong("$source[code] has no connection \"$through\"", ...[...$at, 'reader', 'connection']);
        }
        foreach (array_keys($extract['left_behind'] ?? []) as $header) {
            if (mb_strlen((string) $header) > self::HEADER) {
                $this->wrong('a header has at most '.self::HEADER.' characters', ...[...$at, 'left_behind', $header]);
            }
        }
        foreach ((array) ($extract['reader']['of'] ?? []) as $k => $of) {
            $this->known((string) $of, ...[...$at, 'reader', 'of', $k]);
        }
        if (isset($extract['file'], $extract['reader']['of'])) {
            $this->wrong('a feed is made of other extracts and reads no file', ...[...$at, 'file']);
        }
    }

    private function known(string $extract, string|int ...$at): void
    {
        if (! isset($this->extracts[$extract])) {
            $there = implode(', ', array_keys($this->extracts));
            $this->wrong("no source has the extract \"$extract\"; there are $there", ...$at);
        }
    }

    /** @param  array<string, mixed>  $crosswalk */
    private function crosswalk(array $crosswalk, int $i): void
    {
        $seen = [];
        foreach (array_keys($crosswalk['entries'] ?? []) as $old) {
            $this->code($seen, (string) $old, 'code_crosswalks', $i, 'entries', $old);
        }
        foreach ($crosswalk['rejected'] ?? [] as $n => $old) {
            $this->code($seen, $old, 'code_crosswalks', $i, 'rejected', $n);
        }
        if (($crosswalk['otherwise'] ?? null) === 'value' && ! isset($crosswalk['otherwise_value'])) {
            $this->wrong('otherwise: value needs an otherwise_value', 'code_crosswalks', $i, 'otherwise');
        }
        foreach (array_keys($crosswalk['notes'] ?? []) as $old) {
            if (! isset($seen[trim((string) $old)])) {
                $this->wrong("there is no old value \"$old\" to note something about", 'code_crosswalks', $i, 'notes', $old);
            }
        }
    }

    /** @param  array<array-key, true>  $seen */
    private function code(array &$seen, string $old, string|int ...$at): void
    {
        $value = trim($old);
        if (isset($seen[$value])) {
            $this->wrong("the old value \"$value\" is there twice; blanks at the ends do not count", ...$at);
        } elseif ($value === '') {
            $this->wrong('an old value is more than blanks: a blank cell gives nothing', ...$at);
        } elseif (mb_strlen($value) > 190) {
            $this->wrong('an old value has at most 190 characters', ...$at);
        }
        $seen[$value] = true;
    }

    /** @param  array<string, mixed>  $load */
    private function load(array $load, int $i): void
    {
        $this->known($load['from'], 'loads', $i, 'from');
        if (isset($load['scope']) && ! isset($load['scope_reason'])) {
            $this->wrong('a scope needs a scope_reason: why are the other rows left out?', 'loads', $i, 'scope');
        }
        if (count(array_unique($load['key'])) < count($load['key'])) {
            $this->wrong('a column stands twice in the key', 'loads', $i, 'key');
        }
        foreach ($load['fields'] ?? [] as $field => $rule) {
            if (is_array($rule) && isset($rule['rule']) === isset($rule['empty'])) {
                $this->wrong('a field has either a rule or a reason why it stays empty', 'loads', $i, 'fields', $field);
            }
        }
    }

    /**
     * @param  array<string, mixed>  $proof
     * @param  array<array-key, string>  $loads  name → entity
     */
    private function proof(array $proof, int $i, array $loads): void
    {
        if (isset($proof['entity']) === isset($proof['load'])) {
            $this->wrong('a control total is about an entity or about one load', 'proofs', $i, 'name');

            return;
        }
        if (isset($proof['load']) && ! isset($loads[$proof['load']])) {
            $this->wrong("there is no load \"$proof[load]\"", 'proofs', $i, 'load');
        }
        foreach (['legacy' => $proof['legacy'], 'by' => $proof['by']['legacy'] ?? ''] as $at => $legacy) {
            foreach (is_array($legacy) ? array_keys($legacy) : [] as $load) {
                $entity = $proof['entity'] ?? $loads[$proof['load']] ?? null;
                if (($loads[$load] ?? null) !== $entity || (isset($proof['load']) && $proof['load'] !== (string) $load)) {
                    $this->wrong("\"$load\" is no load it is about", ...($at === 'by'
                        ? ['proofs', $i, 'by', 'legacy', $load]
                        : ['proofs', $i, 'legacy', $load]));
                }
            }
        }
        $problem = ControlTotal::fromPlan($proof)->problem();
        if ($problem !== null) {
            $this->wrong(lcfirst(rtrim($problem->value, '.')), 'proofs', $i, ...$problem->at());
        }
    }

    /**
     * Loads of one entity that name one key space share their legacy keys, so they compare them alike.
     *
     * @param  list<array<string, mixed>>  $loads
     */
    private function oneWayToCompare(array $loads): void
    {
        $stated = [];
        foreach ($loads as $i => $load) {
            $space = "$load[entity] in ".($load['key_space'] ?? explode('/', $load['from'], 2)[0]);
            $how = $load['key_compared'] ?? 'trim';
            [$before, $at] = $stated[$space] ??= [$how, $i];
            if ($how !== $before) {
                $other = $this->file->line(['loads', $at, isset($loads[$at]['key_compared']) ? 'key_compared' : 'name']);
                $this->wrong(
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
