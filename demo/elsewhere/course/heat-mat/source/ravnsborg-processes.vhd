-- Heat of the mat, one process for each task
library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;

entity heatmat is
  port (
    clk   : in  std_logic;
    key_n : in  std_logic;
    seg   : out std_logic_vector(6 downto 0);
    mat   : out std_logic;
    warm  : out std_logic
  );
end entity;

architecture rtl of heatmat is
  constant QUIET : integer := 400000;    -- 8 ms
  constant HALF  : integer := 20000000;  -- 400 ms

  signal key1, key2 : std_logic := '1';
  signal key        : std_logic := '1';
  signal still      : integer range 0 to QUIET := 0;
  signal pressed    : std_logic := '0';
  signal level      : unsigned(1 downto 0) := "00";
  signal ramp       : unsigned(15 downto 0) := (others => '0');
  signal blink      : integer range 0 to HALF := 0;
  signal lit        : std_logic := '1';
begin

  debounce : process (clk)
  begin
    if rising_edge(clk) then
      key1 <= key_n;
      key2 <= key1;
      pressed <= '0';
      if key2 = key then
        still <= 0;
      elsif still = QUIET then
        still <= 0;
        key <= key2;
        if key2 = '0' then
          pressed <= '1';
        end if;
      else
        still <= still + 1;
      end if;
    end if;
  end process;

  heat : process (clk)
  begin
    if rising_edge(clk) then
      if pressed = '1' then
        level <= level + 1;
      end if;
    end if;
  end process;

  digit : process (level)
  begin
    case level is
      when "00"   => seg <= "0111111";
      when "01"   => seg <= "0000110";
      when "10"   => seg <= "1011011";
      when others => seg <= "1001111";
    end case;
  end process;

  -- 50 MHz / 65536: 763 Hz
  width : process (clk)
  begin
    if rising_edge(clk) then
      ramp <= ramp + 1;
      case level is
        when "00" =>
          mat <= '0';
        when "01" =>
          if ramp < 16384 then
            mat <= '1';
          else
            mat <= '0';
          end if;
        when "10" =>
          if ramp < 32768 then
            mat <= '1';
          else
            mat <= '0';
          end if;
        when others =>
          mat <= '1';
      end case;
    end if;
  end process;

  lamp : process (clk)
  begin
    if rising_edge(clk) then
      if level = 0 then
        blink <= 0;
        lit <= '1';
      elsif blink = HALF - 1 then
        blink <= 0;
        lit <= not lit;
      else
        blink <= blink + 1;
      end if;
    end if;
  end process;

  warm <= lit when level /= 0 else '0';

end architecture;
