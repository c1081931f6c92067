<?php

namespace Baggage\Core\Mapping;

use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Crosswalks\SpaceName;
use Baggage\Core\Matching\MatchRule;
use Baggage\Core\Targets\Entity;

/** How the rows of a feed become records of one entity. */
final readonly class LoadDefinition
{
    /**
     * @param  int  $id  of the load
     * @param  string  $source  code of the source
     * @param  string  $space  name of the key space it writes or reads: the source's code unless stated
     * @param  list<string>  $keyColumns  tidy names or headers of the legacy key's columns
     * @param  array<string, string>  $rules  field → expression
     * @param  string|null  $scope  expression that says which rows belong; the others are excluded
     * @param  string|null  $scopeReason  why the others are left out
     * @param  list<MatchRule>  $matches  rules it matches by; the first that hits decides
     */
    public function __construct(
        public int $id,
        public string $name,
        public Entity $entity,
        public string $source,
        public string $space,
        public array $keyColumns,
        public KeyNormalisation $normalisation,
        public array $rules,
        public ?string $scope = null,
        public ?string $scopeReason = null,
        public WritePolicy $policy = WritePolicy::Create,
        public array $matches = [],
        public bool $padShort = false,
        public GonePolicy $gone = GonePolicy::Review,
        public OthersPolicy $others = OthersPolicy::Overwrite,
    ) {
    }

    /** Whether it finds its records by legacy keys that are there already: its rows change them and stand for no key of their own. */
    public function reads(): bool
    {
        return $this->policy->readsKeys($this->matches !== []);
    }

    /** The key space its rows are kept in: the one it writes, or one of its own beside the one it reads. */
    public function rowSpace(): string
    {
        return $this->reads() ? SpaceName::ofRows($this->space, $this->id) : $this->space;
    }

    /** The same with another rule for a field; none where it is empty. */
    public function withRule(string $field, string $expression): self
    {
        $rules = $expression === '' ? array_diff_key($this->rules, [$field => '']) : [$field => $expression] + $this->rules;

        return self::fromArray(['rules' => array_replace(array_intersect_key($this->rules, $rules), $rules)] + $this->toArray());
    }

    /** @param  array<string, mixed>  $a as made by toArray() */
    public static function fromArray(array $a): self
    {
        return new self(
            $a['id'],
            $a['name'],
            Entity::fromArray($a['entity']),
            $a['source'],
            $a['space'],
            $a['key'],
            KeyNormalisation::from($a['key_compared']),
            $a['rules'],
            $a['scope'],
            $a['scope_reason'],
            WritePolicy::from($a['policy']),
            array_values(array_map(MatchRule::fromArray(...), $a['matches'])),
            $a['pad_short'],
            GonePolicy::from($a['gone'] ?? GonePolicy::Review->value),
            OthersPolicy::from($a['others'] ?? OthersPolicy::Overwrite->value),
        );
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'id' => $this->id,
            'name' => $this->name,
            'entity' => $this->entity->toArray(),
            'source' => $this->source,
            'space' => $this->space,
            'key' => $this->keyColumns,
            'key_compared' => $this->normalisation->value,
            'rules' => $this->rules,
            'scope' => $this->scope,
            'scope_reason' => $this->scopeReason,
            'policy' => $this->policy->value,
            'matches' => array_map(fn (MatchRule $r) => $r->toArray(), $this->matches),
            'pad_short' => $this->padShort,
            'gone' => $this->gone->value,
            'others' => $this->others->value,
        ];
    }
}
