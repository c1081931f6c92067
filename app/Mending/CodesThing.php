<?php

namespace App\Mending;

use App\Loading\DueSoon;
use App\Models\CodeCrosswalk;
use App\Models\Rule;
use App\Support\Amount;
use Illuminate\Support\Facades\DB;

final readonly class CodesThing implements Thing
{
    public function __construct(private CodeCrosswalk $crosswalk)
    {
    }

    public function label(): string
    {
        return "the code crosswalk {$this->crosswalk->name}";
    }

    public function fields(): array
    {
        return ['name' => ['label' => 'Name', 'value' => $this->crosswalk->name]];
    }

    public function hangs(): array
    {
        $entries = $this->crosswalk->entries()->count();
        $rules = $this->rules();

        return [
            ...$entries === 0 ? [] : [Amount::of($entries, 'code').' with their history.'],
            ...$rules === [] ? [] : [
                Amount::of(count($rules), 'rule').' that name it: '.implode(', ', array_map(
                    fn (Rule $r) => "{$r->ofLoad->name}, $r->field",
                    $rules,
                )).'. Renamed, they name it anew.',
            ],
        ];
    }

    public function holds(): array
    {
        return array_map(
            fn (Rule $r) => "The rule of $r->field in \"{$r->ofLoad->name}\" uses it: change the rule first.",
            $this->rules(),
        );
    }

    public function change(array $values): void
    {
        $name = $values['name'] ?? $this->crosswalk->name;
        if ($name === '' || mb_strlen($name) > 100 || str_contains($name, "'") || str_contains($name, '"')) {
            throw new \DomainException('A name of up to 100 characters, without quotation marks.');
        }
        $migration = $this->crosswalk->migration()->firstOrFail();
        if ($migration->codeCrosswalks()->whereKeyNot($this->crosswalk->id)->where('name', $name)->exists()) {
            throw new \DomainException("There is a code crosswalk $name already.");
        }
        DB::transaction(function () use ($name) {
            foreach ($this->rules() as $rule) {
                $expression = self::named((string) $rule->expression, $this->crosswalk->name, $name);
                $rule->update(['expression' => $expression, 'version' => $rule->version + 1]);
            }
            $this->crosswalk->update(['name' => $name]);
        });
        (new DueSoon)->changed($migration);
    }

    public function remove(): void
    {
        $this->crosswalk->delete();
    }

    public function after(): string
    {
        return "/m/{$this->crosswalk->migration_id}/crosswalks";
    }

    /** A rule with the first argument of code() and code_or() changed where it is the name. */
    private static function named(string $expression, string $before, string $now): string
    {
        return (string) preg_replace_callback(
            '/\b(code(?:_or)?\s*\(\s*)([\'"])'.preg_quote($before, '/').'\2/',
            fn (array $m) => $m[1].$m[2].$now.$m[2],
            $expression,
        );
    }

    /** @return list<Rule> */
    private function rules(): array
    {
        $name = $this->crosswalk->name;

        return array_values(Rule::query()
            ->whereHas('ofLoad', fn ($q) => $q->where('migration_id', $this->crosswalk->migration_id))
            ->where('expression', 'like', '%'.addcslashes($name, '%_\\').'%')
            ->with('ofLoad')
            ->get()
            ->filter(fn (Rule $r) => self::named((string) $r->expression, $name, "$name\x1F") !== $r->expression)
            ->all());
    }
}
