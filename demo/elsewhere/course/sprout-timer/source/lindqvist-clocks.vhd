library ieee;
use ieee.std_logic_1164.all;
use ieee.numeric_std.all;

entity sprout is
  port (
    clk   : in  std_logic;
    key_n : in  std_logic;
    seg   : out std_logic_vector(6 downto 0);
    sel   : out std_logic_vector(1 downto 0);
    green : out std_logic;
    red   : out std_logic
  );
end entity;

architecture rtl of sprout is
  type state_t is (running, over);
  signal state  : state_t := running;
  signal count  : integer range 0 to 19999999 := 0;
  signal slow   : unsigned(16 downto 0) := (others => '0');
  signal tens   : unsigned(3 downto 0) := to_unsigned(1, 4);
  signal ones   : unsigned(3 downto 0) := to_unsigned(2, 4);
  signal figure : unsigned(3 downto 0);

  function lit(n : unsigned(3 downto 0)) return std_logic_vector is
  begin
    case to_integer(n) is
      when 0 => return "0111111";
      when 1 => return "0000110";
      when 2 => return "1011011";
      when 3 => return "1001111";
      when 4 => return "1100110";
      when 5 => return "1101101";
      when 6 => return "1111101";
      when 7 => return "0000111";
      when 8 => return "1111111";
      when 9 => return "1101111";
      when others => return "0000000";
    end case;
  end function;
begin
  process (clk)
  begin
    if rising_edge(clk) then
      slow <= slow + 1;
      if key_n = '0' then
        count <= 0;
        tens <= to_unsigned(1, 4);
        ones <= to_unsigned(2, 4);
        state <= running;
      elsif count = 19999999 then
        count <= 0;
        if state = running then
          if ones = 0 then
            tens <= to_unsigned(0, 4);
            ones <= to_unsigned(9, 4);
          else
            ones <= ones - 1;
            if tens = 0 and ones = 1 then
              state <= over;
            end if;
          end if;
        end if;
      else
        count <= count + 1;
      end if;
    end if;
  end process;

  figure <= ones when slow(16) = '0' else to_unsigned(15, 4) when tens = 0 else tens;
  seg <= lit(figure);
  sel <= "10" when slow(16) = '0' else "01";
  green <= '1' when state = running else '0';
  red <= '1' when state = over else '0';
end architecture;
