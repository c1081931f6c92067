<?php

namespace Tests\Browser;

use App\Models\User;
use Facebook\WebDriver\WebDriverBy;
use Facebook\WebDriver\WebDriverKeys;
use Tests\TestCase;

/** Somebody is invited, sets a password by the link, sees what was given and no more; and all of it can be read afterwards. */
final class PeopleStoryTest extends TestCase
{
    use FirstUse;

    private function login(string $email, string $password): void
    {
        $this->browser->go('/login');
        $this->browser->type('#email', $email);
        $this->browser->type('#password', $password);
        $this->browser->keys(WebDriverKeys::ENTER);
    }

    public function test_from_an_invitation_to_the_log(): void
    {
        $b = $this->browser;
        $m = '/m/'.$this->migration()->id;
        $this->login('lead@example.test', 'secret-Lead');
        $b->see('Migrations');
        $b->go("$m/people");
        $b->type('#name', 'Bo');
        $b->type('#email', 'bo@example.test');
        $b->find('#role')->sendKeys('client');
        $b->press('Invite');
        $b->see('shown this once');
        $this->assertClean();
        $link = (string) parse_url($b->find('.note code')->getText(), PHP_URL_PATH);
        $b->go('/account');
        $this->assertClean();
        $b->press('Log out');
        $b->see('Every legacy row is accounted for');
        $this->joins($link, $m);
        $this->login('lead@example.test', 'secret-Lead');
        $b->see('Migrations');
        $b->go("$m/log");
        $b->see('invited bo@example.test');
        $b->see('was refused');
        $b->go('/log');
        $b->see('set a password by a link');
    }

    private function joins(string $link, string $m): void
    {
        $b = $this->browser;
        $b->go($link);
        $this->assertClean();
        foreach (['short one' => 'at least 12 characters', 'password20262026' => 'one that many people use'] as $password => $says) {
            $b->driver->executeScript('document.querySelectorAll("[minlength]").forEach(e => e.removeAttribute("minlength"))');
            $b->type('#password', $password);
            $b->type('#password_confirmation', $password);
            $b->keys(WebDriverKeys::ENTER);
            $b->see($says);
        }
        $b->type('#password', 'three quiet otters');
        $b->type('#password_confirmation', 'three quiet otters');
        $b->keys(WebDriverKeys::ENTER);
        $b->see('Each is one client');
        self::assertSame([], $b->driver->findElements(WebDriverBy::cssSelector('form[action="/migrations"]')), 'begins none');
        $b->go("$m/people");
        $b->see('client reviewer');
        self::assertSame([], $b->driver->findElements(WebDriverBy::cssSelector('#email')), 'invites nobody');
        $b->go("$m/log");
        $b->see('Your role does not allow this');
        self::assertNotNull(User::addressed('bo@example.test')->value('password'));
        $b->go('/account');
        $b->press('Log out');
        $b->see('Every legacy row is accounted for');
    }
}
