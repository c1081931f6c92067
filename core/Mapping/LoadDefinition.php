<?php

namespace Baggage\Core\Mapping;

use Baggage\Core\Crosswalks\KeyNormalisation;
use Baggage\Core\Matching\MatchRule;
use Baggage\Core\Targets\Entity;

/** How the rows of a feed become records of one entity. */
final readonly class LoadDefinition
{
    /**
     * @param  int  $id  of the load
     * @param  string  $source  code of the source
     * @param  list<string>  $keyColumns  tidy names or headers of the legacy key's columns
     * @param  array<string, string>  $rules  field → expression
     * @param  string|null  $scope  expression that says which rows belong; the others are excluded
     * @param  string|null  $scopeReason  why the others are left out
     */
    public function __construct(
        public int $id,
        public string $name,
        public Entity $entity,
        public string $source,
        public array $keyColumns,
        public KeyNormalisation $normalisation,
        public array $rules,
        public ?string $scope = null,
        public ?string $scopeReason = null,
        public WritePolicy $policy = WritePolicy::Create,
        public ?MatchRule $match = null,
        public bool $padShort = false,
    ) {
    }
}
