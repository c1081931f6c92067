<?php

namespace App\Mapping;

use App\Catalogue\Definitions;
use App\Ledger\CauseReader;
use App\Models\Load;
use App\Models\Round;
use App\Models\Rule;
use App\Staging\StagedRows;
use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Expressions\Catalogue;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Mapping\LoadDefinition;
use Baggage\Core\Mapping\Mapper;
use Baggage\Core\Mapping\Wanted;
use Baggage\Core\Targets\Entity;
use Baggage\Core\Targets\Field;

/** The rule sheet of one load: every field with its rule, tried on sampled rows. */
final class RuleSheet
{
    /** @param  array<int, list<string|null>>  $sample  row number → cells that rules are tried on */
    private function __construct(
        private readonly Definitions $definitions,
        private readonly Load $load,
        public readonly array $sample,
    ) {
    }

    /** @param  list<int>  $rows row numbers to try rules on */
    public static function of(Definitions $definitions, Load $load, array $rows): self
    {
        return new self($definitions, $load, StagedRows::ofLoad($load)->numbered($rows));
    }

    /** @param  array<int, list<string|null>>  $sample  row number → cells */
    public static function on(Definitions $definitions, Load $load, array $sample): self
    {
        return new self($definitions, $load, $sample);
    }

    /**
     * First, middle and last, unless others are asked for.
     *
     * @return list<int>
     */
    public static function rows(Load $load, ?string $asked): array
    {
        $n = (int) $load->extract->take?->rows;
        $numbers = array_values(
            array_unique(
                array_filter(array_map(intval(...), explode(',', (string) $asked)), fn ($r) => $r >= 1 && $r <= $n),
            ),
        );

        return array_slice($numbers, 0, 3) ?: array_values(array_unique(array_filter([1, intdiv($n + 1, 2), $n])));
    }

    /** @return list<array{string, string}> what may be typed into a rule, each with a few words on it: columns first, then functions */
    public static function words(Load $load): array
    {
        $words = [];
        foreach ($load->extract->tidyColumns()->all as $column) {
            $words[] = [$column->name, $column->header === $column->name ? 'column' : "column $column->header"];
        }
        foreach (Catalogue::entries() as $name => $entry) {
            $words[] = ["$name(", "{$entry->described->arguments}) {$entry->described->meaning} ({$entry->types()})"];
        }

        return $words;
    }

    /** Lines shown at once. */
    public const PAGE = 60;

    /**
     * Names of the fields a view of the sheet is about.
     *
     * @param  string  $show  all, mapped, or open for those without a rule or a decision
     * @return list<string>
     */
    public static function fields(Load $load, string $show): array
    {
        $ruled = $load->rules
            ->filter(fn (Rule $r) => $r->expression !== null || ($show === 'open' && $r->empty_reason !== null))
            ->pluck('field')
            ->all();
        $all = array_map(strval(...), array_keys($load->entity->described()->writable()));

        return array_values(
            match ($show) {
                'mapped' => array_intersect($all, $ruled),
                'open' => array_diff($all, $ruled),
                default => $all,
            },
        );
    }

    /**
     * @param  list<string>|null  $only  fields, all when null
     * @return list<RuleLine>
     */
    public function lines(?Round $round, ?array $only = null): array
    {
        $rejected = $round === null ? [] : (new CauseReader($round->laneId()))->rejectedByField($this->load->id);
        $lines = [];
        foreach ($this->load->entity->described()->writable() as $name => $field) {
            if ($only !== null && ! in_array($name, $only, true)) {
                continue;
            }
            $rule = $this->load->rules->firstWhere('field', $name);
            $lines[] = $this->line($field, $rule, (string) $rule?->expression, $rejected[$name] ?? 0);
        }

        return $lines;
    }

    /** A field's line with an expression that need not be kept yet. */
    public function line(Field $field, ?Rule $rule, string $expression, int $rejected = 0): RuleLine
    {
        $samples = $codes = [];
        $error = null;
        if (trim($expression) !== '') {
            try {
                $columns = $this->load->extract->tidyColumns();
                $compiled = (new Compiler($columns))->compile($expression);
                [$used, $codes] = [$compiled->columns, $compiled->codes];
                // Before anything is frozen there is no row to try it on, and no column for a key.
                $mapper = $this->sample === [] ? null : $this->mapperFor($field, $expression);
                $wanted = Wanted::alone($this->load->entity->described(), $field->name);
                foreach ($this->sample as $cells) {
                    $made = $mapper?->field($field->name, $cells);
                    $samples[] = [
                        'before' => array_map(fn ($i) => $cells[$i] ?? null, array_slice($used, 0, 3)),
                        'after' => $wanted->failing([$field->name => $made])[0] ?? $made,
                    ];
                }
            } catch (ExpressionError $e) {
                $error = $e->getMessage();
                $samples = [];
            }
        }

        return new RuleLine($this->load, $field, $rule, $expression, $error, $samples, $rejected, $codes);
    }

    /** A mapper of this one rule alone. */
    private function mapperFor(Field $field, string $expression): Mapper
    {
        $entity = $this->load->entity->described();
        $columns = $this->load->extract->tidyColumns();
        $key = $columns->all === [] ? [] : [$columns->all[0]->name];
        $only = new LoadDefinition(
            $this->load->id,
            $this->load->name,
            new Entity($entity->name, $entity->key, [$field]),
            $this->load->extract->source->code,
            $this->load->keySpace(),
            $key,
            KeyNormalisation::Trim,
            [$field->name => $expression],
        );

        return Mapper::of($only, $columns, $this->definitions->context($this->load));
    }
}
