<?php

namespace App\Loading;

use App\Models\Target;
use App\Targets\Ports;
use Baggage\Core\Loading\PlanVersion;
use Baggage\Core\Loading\TargetUnavailable;
use Baggage\Core\Targets\Differences;
use Baggage\Core\Targets\Entity;

/** Holds a target against its description, and tries what a pass will do there, before there is a pass. */
final class TargetReady
{
    private const SHOWN = 6;

    /**
     * @return list<string> how the target is other than described, where that stops no load
     *
     * @throws TargetUnavailable
     * @throws \DomainException where no row could be written
     */
    public static function for(PlanVersion $plan, Target $target): array
    {
        $ports = Ports::of($target);
        $schema = $ports->schema();
        $stopping = $telling = [];
        foreach (self::filled($plan) as [$entity, $filled, $creates]) {
            $found = Differences::between($entity, $schema->entities[$entity->name] ?? null, $filled, $creates);
            array_push($stopping, ...$found->stopping);
            array_push($telling, ...$found->telling);
        }
        if ($stopping !== []) {
            throw new \DomainException(
                "The target \"$target->name\" is not as described. ".self::some($stopping).' Read its description again, at Target.',
            );
        }
        $missing = $ports->missingRights(array_map(fn (array $f) => $f[0], self::filled($plan)));
        if ($missing !== []) {
            throw new \DomainException(self::some($missing));
        }

        return $telling;
    }

    /** @return list<array{Entity, array<string, mixed>, bool}> entity, fields that are filled, whether records are made */
    private static function filled(PlanVersion $plan): array
    {
        $all = [];
        foreach ($plan->loads as $load) {
            [, $filled, $creates] = $all[$load->entity->name] ?? [null, [], false];
            $all[$load->entity->name] = [$load->entity, $filled + $load->rules, $creates || $load->policy->creates()];
        }

        return array_values($all);
    }

    /** @param  list<string>  $told */
    private static function some(array $told): string
    {
        $more = count($told) - self::SHOWN;

        return implode(' ', array_slice($told, 0, self::SHOWN)).($more > 0 ? " And $more more." : '');
    }
}
