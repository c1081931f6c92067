<?php

namespace App\Files;

use App\Catalogue\CodeColumn;
use App\Catalogue\CodeFit;
use App\Models\CodeCrosswalk;
use App\Models\CodeDecision;
use App\Models\CodeEntry;
use App\Models\Load;
use App\Models\Take;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Expressions\Rule;
use Baggage\Core\Rows\Cause;

/** Which cells of a row are wrong, and the values they may take where those are few: each list once, as lines of a sheet of its own. */
final class Choices
{
    /** Values offered for one cell. */
    private const MOST = 2_000;

    /** @var list<array{string, string, string}> column, value, what it becomes */
    public array $lines = [];

    /** @var array<string, array{list<int>, array{int, int}|null}> load, code and field → positions, first and last line of the values */
    private array $known = [];

    /** @var array<string, Rule|null> */
    private array $rules = [];

    /**
     * @param  array<int, Load>  $loads
     * @param  array<int, Take>  $takes  by load
     */
    public function __construct(private readonly array $loads, private readonly array $takes)
    {
    }

    /** @return array{list<int>, array{int, int}|null} positions of the cells, first and last of the lines the first of them may say */
    public function of(int $load, string $code, ?string $field): array
    {
        return $this->known["$load~$code~$field"] ??= $this->found($load, $code, $field);
    }

    /** @return array{list<int>, array{int, int}|null} */
    private function found(int $load, string $code, ?string $field): array
    {
        $rule = $field === null ? null : $this->rule($load, explode(', ', $field)[0]);
        $positions = $rule->columns ?? [];
        if ($positions === []) {
            $columns = $this->takes[$load]->tidyColumns();
            $key = array_map(fn (string $name) => $columns->find($name)?->position, $this->loads[$load]->key_columns);
            $isKey = Cause::isAboutKey($code);

            return [$isKey ? array_values(array_filter($key, fn (?int $at) => $at !== null)) : [], null];
        }
        $isPlain = trim((string) $rule?->expression) === $this->header($load, $positions[0]);
        $values = match (true) {
            in_array($code, ['no_new_value', 'code_rejected'], true) => $this->codes($load, $rule),
            $code === 'not_allowed' && $isPlain => $this->allowed($load, $field),
            default => [],
        };
        if ($values === []) {
            return [$positions, null];
        }
        $first = count($this->lines);
        foreach ($values as [$value, $becomes]) {
            $this->lines[] = [(string) $this->takes[$load]->headers()[$positions[0]], $value, $becomes];
        }

        return [$positions, [$first, count($this->lines) - 1]];
    }

    private function rule(int $load, string $field): ?Rule
    {
        if (array_key_exists("$load~$field", $this->rules)) {
            return $this->rules["$load~$field"];
        }
        $written = $this->loads[$load]->rules->firstWhere('field', $field)?->expression;
        try {
            $rule = $written === null ? null : (new Compiler($this->takes[$load]->tidyColumns()))->compile((string) $written);
        } catch (ExpressionError) {
            $rule = null;
        }

        return $this->rules["$load~$field"] = $rule;
    }

    private function header(int $load, int $position): string
    {
        return $this->takes[$load]->tidyColumns()->all[$position]->name ?? '';
    }

    /** @return list<array{string, string}> old values that have a new one */
    private function codes(int $load, ?Rule $rule): array
    {
        $crosswalk = CodeCrosswalk::query()->where('migration_id', $this->loads[$load]->migration_id)
            ->where('name', $rule->codes[0] ?? '')->first();

        return array_values($crosswalk?->entries()
            ->where('decision', CodeDecision::Value)
            ->whereNotNull('new_value')
            ->orderBy('old_value')
            ->limit(self::MOST)
            ->get()
            ->map(fn (CodeEntry $e) => [$e->old_value, (string) $e->new_value])
            ->all() ?? []);
    }

    /** @return list<array{string, string}> */
    private function allowed(int $load, ?string $field): array
    {
        $of = $this->loads[$load];
        $fit = CodeFit::of([new CodeColumn($load, $of->name, $of->entity_id, explode(', ', (string) $field)[0], null, 0)]);

        return array_map(fn (string $value) => [$value, $value], array_slice($fit->allowed() ?? [], 0, self::MOST));
    }
}
