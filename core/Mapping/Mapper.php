<?php

namespace Baggage\Core\Mapping;

use Baggage\Core\Crosswalks\LegacyKey;
use Baggage\Core\Crosswalks\ParentKey;
use Baggage\Core\Expressions\Compiler;
use Baggage\Core\Expressions\Context;
use Baggage\Core\Expressions\ExpressionError;
use Baggage\Core\Expressions\Operators;
use Baggage\Core\Expressions\Rule;
use Baggage\Core\Expressions\RuleFailure;
use Baggage\Core\Reading\Blank;
use Baggage\Core\Reading\Columns;
use Baggage\Core\Rows\Cause;
use Baggage\Core\Rows\Journey;
use Baggage\Core\Rows\Outcome;
use Baggage\Core\Rows\Stage;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Refusal;

/** Applies a load's key, scope and field rules to rows: the steps read, scoped, mapped and checked. */
final class Mapper
{
    /** Values remembered of all fields together. */
    private const REMEMBERED = 40_000;

    /** @var array<string, array<array-key, string|ParentKey|Cause>> field → cell → what it gets */
    private array $known = [];

    /** @var array<string, int> field → how often it was looked for since its memory was empty */
    private array $tries = [];

    /**
     * @param  array<string, Rule>  $rules
     * @param  array<string, Field>  $fields  those the rules are of
     * @param  array<string, int>  $column  field → the one column its rule reads, while remembering pays
     */
    private function __construct(
        private readonly LoadDefinition $load,
        private readonly Context $context,
        private readonly int $width,
        private readonly KeyReader $keys,
        private readonly ?Rule $scope,
        private readonly array $rules,
        private readonly array $fields,
        private array $column,
    ) {
    }

    /** @throws DefinitionError */
    public static function of(LoadDefinition $load, Columns $columns, Context $context): self
    {
        $keys = KeyReader::of($load, $columns);
        $compiler = new Compiler($columns);
        $fields = $rules = [];
        foreach ($load->rules as $field => $expression) {
            $fields[$field] = $load->entity->fields[$field]
                ?? throw DefinitionError::noField($load->name, $load->entity->name, $field);
            $rules[$field] = self::compiled($load, $compiler, $expression, $field);
        }
        $scope = $load->scope === null ? null : self::compiled($load, $compiler, $load->scope, null);
        $single = array_map(fn (Rule $r) => $r->columns[0], array_filter($rules, fn (Rule $r) => count($r->columns) === 1));
        $mapper = new self($load, $context, $columns->count(), $keys, $scope, $rules, $fields, $single);
        $mapper->refuseMissing();

        return $mapper;
    }

    /** @throws DefinitionError when a row could be created without what the target requires */
    private function refuseMissing(): void
    {
        foreach ($this->load->policy->creates() ? $this->load->entity->writable() : [] as $name => $field) {
            if ($field->required && $field->default === null && ! isset($this->rules[$name])) {
                throw DefinitionError::requiredWithoutRule($this->load->name, $name);
            }
        }
    }

    /** @return array<string, Rule> by field */
    public function rules(): array
    {
        return $this->rules;
    }

    public function scope(): ?Rule
    {
        return $this->scope;
    }

    /** @return list<int> positions of the legacy key's columns */
    public function keyPositions(): array
    {
        return $this->keys->positions;
    }

    /** @param  list<string|null>  $cells */
    public function legacyKey(array $cells): string
    {
        return $this->keys->legacyKey($cells);
    }

    /** @param  list<string|null>  $cells */
    public function map(int $row, array $cells): Journey
    {
        $journey = $this->begin($row, $cells);
        if ($journey->isOpen()) {
            $this->fill($journey, $this->filled($cells));
        }

        return $journey;
    }

    /**
     * The steps read and scoped alone: the journey has an outcome when it ends there.
     *
     * @param  list<string|null>  $cells
     */
    public function begin(int $row, array $cells): Journey
    {
        $journey = new Journey($row);
        $count = count($cells);
        if ($count > $this->width || ($count < $this->width && ! $this->load->padShort)) {
            $journey->legacyKey = mb_substr($this->legacyKey($cells), 0, LegacyKey::LONGEST);
            $journey->reject(
                new Cause(
                    Stage::Reading,
                    $count < $this->width ? 'short_row' : 'long_row',
                    null,
                    null,
                    "The row has $count cells, the header $this->width",
                ),
            );

            return $journey;
        }
        $cells = $this->filled($cells);
        $key = $this->legacyKey($cells);
        $journey->legacyKey = mb_substr($key, 0, LegacyKey::LONGEST);
        if ($this->scope !== null && ! $this->inScope($journey, $cells)) {
            return $journey;
        }
        if ($key === '') {
            $journey->reject(new Cause(Stage::Checks, 'no_legacy_key', null, null, 'The row has no legacy key'));
        } elseif (strlen($key) > LegacyKey::LONGEST && mb_strlen($key) > LegacyKey::LONGEST) {
            $journey->reject(
                new Cause(
                    Stage::Checks,
                    'key_too_long',
                    null,
                    null,
                    'The legacy key is longer than '.LegacyKey::LONGEST.' characters',
                ),
            );
        }

        return $journey;
    }

    /**
     * The cells, a short row filled up with blanks where its load says so.
     *
     * @param  list<string|null>  $cells
     * @return list<string|null>
     */
    public function filled(array $cells): array
    {
        return $this->load->padShort && count($cells) < $this->width ? array_pad($cells, $this->width, null) : $cells;
    }

    /**
     * One rule on one row. Rules give the same for the same, so where a rule reads one column of few different values it is applied to
     * each of them once.
     *
     * @param  list<string|null>  $cells
     * @return string|ParentKey|Cause|null what the field gets, or why it gets nothing
     */
    public function field(string $name, array $cells): string|ParentKey|Cause|null
    {
        $cell = isset($this->column[$name]) ? $cells[$this->column[$name]] ?? null : null;
        if ($cell === null) {
            return $this->applied($name, $cells);
        }
        $known = $this->known[$name][$cell] ?? null;
        $this->tries[$name] = ($this->tries[$name] ?? 0) + 1;
        if ($known !== null) {
            return $known;
        }
        $value = $this->applied($name, $cells);
        if ($value !== null) {
            $this->remember($name, $cell, $value);
        }

        return $value;
    }

    private function remember(string $name, string $cell, string|ParentKey|Cause $value): void
    {
        if (count($this->known[$name] ?? []) >= max(100, intdiv(self::REMEMBERED, count($this->rules)))) {
            if ($this->tries[$name] < 2 * count($this->known[$name])) {
                unset($this->column[$name], $this->known[$name]);

                return;
            }
            [$this->tries[$name], $this->known[$name]] = [0, []];
        }
        $this->known[$name][$cell] = $value;
    }

    /** @param  list<string|null>  $cells */
    private function applied(string $name, array $cells): string|ParentKey|Cause|null
    {
        $field = $this->fields[$name];
        if (count($cells) < $this->width) {
            // The row itself may be rejected for it; what its rules make of the cells it has can be seen all the same.
            $cells = array_pad($cells, $this->width, null);
        }
        try {
            $value = $this->rules[$name]->apply($cells, $this->context);
        } catch (RuleFailure $e) {
            return new Cause(Stage::Mapping, $e->reason, $name, $e->value, $e->getMessage());
        }
        if ($value instanceof ParentKey) {
            $why = 'The field holds no reference, so parent() gives it nothing';

            return $field->refers !== null
                ? $value
                : new Cause(Stage::Mapping, 'not_a_reference', $name, (string) $value, $why);
        }
        if ($value === null || (is_string($value) && Blank::is($value))) {
            return $field->required && $field->default === null
                ? new Cause(Stage::Checks, 'required', $name, null, 'Required, and the rule gives nothing')
                : null;
        }
        if (! is_scalar($value)) {
            return new Cause(Stage::Mapping, 'not_text', $name, null, 'The rule gives a list');
        }
        $accepted = $field->type->accept($value);
        if ($accepted instanceof Refusal) {
            return new Cause(
                Stage::Checks,
                $accepted->code,
                $name,
                mb_substr(Operators::text($value), 0, 250),
                $accepted->message,
            );
        }

        return $accepted;
    }

    /** @param  list<string|null>  $cells */
    private function fill(Journey $journey, array $cells): void
    {
        foreach (array_keys($this->rules) as $name) {
            $value = $this->field($name, $cells);
            if ($value instanceof Cause) {
                $journey->reject($value);

                return;
            }
            if ($value instanceof ParentKey) {
                $journey->parents[$name] = $value;
                $value = null;
            }
            // A field left without a value takes the target's own default.
            if ($value !== null || $this->fields[$name]->default === null) {
                $journey->values[$name] = $value;
            }
        }
    }

    /** @param  list<string|null>  $cells */
    private function inScope(Journey $journey, array $cells): bool
    {
        try {
            if ($this->scope !== null && Operators::truth($this->scope->apply($cells, $this->context))) {
                return true;
            }
            $journey->outcome = Outcome::Excluded;
            $journey->cause = new Cause(
                Stage::Scope,
                'out_of_scope',
                null,
                null,
                $this->load->scopeReason ?? 'Outside the scope',
            );
        } catch (RuleFailure $e) {
            $journey->reject(new Cause(Stage::Scope, $e->reason, null, $e->value, $e->getMessage()));
        }

        return false;
    }

    /** @throws DefinitionError */
    private static function compiled(LoadDefinition $load, Compiler $compiler, string $expression, ?string $field): Rule
    {
        try {
            return $compiler->compile($expression);
        } catch (ExpressionError $e) {
            $where = $field === null ? 'the scope' : "the rule of \"$field\"";
            throw DefinitionError::notUnderstood($load->name, $field, $where, $e->getMessage());
        }
    }
}
