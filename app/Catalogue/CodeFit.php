<?php

namespace App\Catalogue;

use App\Models\Entity;
use Baggage\Core\Mapping\Wanted;
use Baggage\Core\Targets\Entity as Described;
use Baggage\Core\Targets\Field;
use Baggage\Core\Targets\Refusal;

/** What the fields a code crosswalk fills say of its new values. */
final readonly class CodeFit
{
    /** @param  list<array{CodeColumn, Described, Field}>  $fields */
    private function __construct(private array $fields)
    {
    }

    /**
     * @param  list<CodeColumn>  $uses
     * @param  array<int, Described>|null  $entities  by number, where they are at hand
     */
    public static function of(array $uses, ?array $entities = null): self
    {
        $entities ??= Entity::query()
            ->whereIn('id', array_unique(array_column($uses, 'entity')))
            ->get()
            ->mapWithKeys(fn (Entity $e) => [$e->id => $e->described()])
            ->all();
        $fields = [];
        foreach ($uses as $use) {
            $entity = $entities[$use->entity] ?? null;
            $field = $entity->fields[$use->field] ?? null;
            // A key is found, or not, when the row is loaded.
            if ($entity !== null && $field !== null && $field->refers === null) {
                $fields[] = [$use, $entity, $field];
            }
        }

        return new self($fields);
    }

    /** @return list<string>|null the values to choose from: those every field with a list allows, or any of them where none is in all */
    public function allowed(): ?array
    {
        $lists = array_values(array_filter(
            array_map(fn (array $f) => $f[1]->allowed($f[2]->name), $this->fields),
            fn (?array $list) => $list !== null,
        ));
        if ($lists === []) {
            return null;
        }
        $common = count($lists) === 1 ? $lists[0] : array_values(array_intersect(...$lists));

        return $common !== [] ? $common : array_values(array_unique(array_merge(...$lists)));
    }

    /**
     * Why the target would not take a new value.
     *
     * @param  string|null  $new  null for a field left empty
     */
    public function refusal(?string $new): ?string
    {
        foreach ($this->fields as [$use, $entity, $field]) {
            $why = $use->isDirect ? self::why($entity, $field, $new) : null;
            if ($why !== null) {
                return "{$use->label()}: $why";
            }
        }

        return null;
    }

    private static function why(Described $entity, Field $field, ?string $new): ?string
    {
        if ($new === null) {
            return $field->required && $field->default === null ? 'must be filled' : null;
        }
        $made = $field->type->accept($new);
        if ($made instanceof Refusal) {
            return lcfirst($made->message);
        }

        return lcfirst(Wanted::alone($entity, $field->name)->failing([$field->name => $made])[0]->message ?? '') ?: null;
    }
}
